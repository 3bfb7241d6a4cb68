"""What a kind of part must offer, and the registry that holds all kinds.

A kind enters with its ports, electrics and fault modes together. `circuit` and
`behaviour` get the registry handed in; they never import `kinds`.
"""

from collections.abc import Iterator
from dataclasses import dataclass, field, fields
from typing import TYPE_CHECKING, Any

from brightcore.bike.model import Part, Port
from brightcore.errors import UnknownNameError

if TYPE_CHECKING:
    from brightcore.behaviour.scene import SceneView
    from brightcore.circuit.elements import Override
    from brightcore.circuit.netlist import Stamper


def spec_value(default: Any, low: float | None = None, high: float | None = None, doc: str = "", later: bool = False) -> Any:
    """Return a dataclass field with limits and a line of documentation.

    `later`: came after the first files were written; in a file only where it differs from the default.
    """
    return field(default=default, metadata={"low": low, "high": high, "doc": doc, "later": later})


@dataclass(frozen=True, slots=True)
class RepairKind:
    """What is done about a fault: words, minutes, part cost level and root cause to look for."""

    id: str
    action: str
    minutes: float
    root_cause: str
    cost_level: int = 0


@dataclass(frozen=True, slots=True)
class FaultMode:
    """A way a part can fail.

    `id` is permanent (`part.port.pin/mode/severity`), `weight` the relative prior (common
    practice), `traits` are faults that are not electrical (a stripped gear) or that the
    controller's own rules need to know of.
    """

    id: str
    title: str
    weight: float
    repair: RepairKind
    overrides: "tuple[Override, ...]" = ()
    traits: tuple[str, ...] = ()
    family: str = ""
    seen_by_eye: float = 0.0


@dataclass(frozen=True, slots=True)
class Control:
    """Something a technician can set: a grip, a lever, the cranks, the rotor.

    `values` in order with the resting one first; `words` say how to do it.
    """

    id: str
    values: tuple[str, ...]
    words: tuple[str, ...]


class PartKind:
    """Base of all kinds. Override what the kind has; the defaults mean "nothing"."""

    name: str = ""
    title: str = ""
    spec_type: type = object
    place: str = "bar"
    symbol: str = "box"
    swap_min: float = 0.0
    has_spare: bool = False
    act: str = "Pull {part}"
    inline: bool = False
    not_modelled: tuple[str, ...] = ()

    def ports(self, spec: Any) -> tuple[Port, ...]:
        """Return the default ports for a spec."""
        return ()

    def stamp(self, s: "Stamper", part: Part) -> None:
        """Add the part's elements to a circuit, by pin role."""

    def faults(self, part: Part) -> tuple[FaultMode, ...]:
        """Return the part's own fault modes."""
        return ()

    def controls(self, part: Part) -> tuple[Control, ...]:
        """Return what a technician can set on this part."""
        return ()

    def apply(self, part: Part, control: str, value: str) -> "tuple[Override, ...]":
        """Return the element overrides of one control value."""
        return ()

    def links(self, part: Part) -> "Iterator[tuple[str, str]]":
        """Yield (port.pin, port.pin) that the part simply joins through, as a cable does."""
        return iter(())

    def behave(self, part: Part, view: "SceneView") -> None:
        """Write what would be seen in a scene into the view."""

    def check_spec(self, spec: Any) -> Iterator[tuple[str, str]]:
        """Yield (field, message) for values that contradict each other."""
        return iter(())


class Registry:
    """All kinds by name."""

    def __init__(self, kinds: tuple[PartKind, ...]) -> None:
        self._kinds = {kind.name: kind for kind in kinds}

    def __getitem__(self, name: str) -> PartKind:
        try:
            return self._kinds[name]
        except KeyError:
            raise UnknownNameError("kind", name, tuple(self._kinds)) from None

    def __iter__(self) -> Iterator[PartKind]:
        return iter(self._kinds.values())

    def names(self) -> tuple[str, ...]:
        """Return the names of all kinds."""
        return tuple(self._kinds)


def spec_fields(spec_type: type) -> Iterator[tuple[str, type, Any, Any]]:
    """Yield (name, type, default, metadata) of a spec dataclass."""
    for item in fields(spec_type):
        yield item.name, item.type, item.default, item.metadata  # type: ignore[misc]
