"""Ways in which a part or a wire fails, and what is then done."""

from dataclasses import dataclass

from brightcore.circuit.elements import Override


@dataclass(frozen=True, slots=True)
class RepairKind:
    """What is done about a fault: words, minutes, part cost level and root cause to look for."""

    id: str
    action: str
    minutes: float
    root_cause: str
    cost_level: int = 0

    @property
    def owner(self) -> str:
        """The part or join that the repair is about, "" for the special ones."""
        return self.id.split(":")[1] if ":" in self.id else ""

    @property
    def of_join(self) -> bool:
        """Whether it is about a plug, not a part."""
        return self.id.startswith("join:")


@dataclass(frozen=True, slots=True)
class FaultMode:
    """A way a part can fail.

    `id` is permanent (`part.port.pin/mode/severity`), `weight` the relative prior (common practice), `traits`
    are faults that are not electrical (a stripped gear) or that the controller's own rules need to know of.
    `family` is the place it sits at, `seen_by_eye` the chance that a close look shows it.
    """

    id: str
    title: str
    weight: float
    repair: RepairKind
    overrides: tuple[Override, ...] = ()
    traits: tuple[str, ...] = ()
    family: str = ""
    seen_by_eye: float = 0.0
