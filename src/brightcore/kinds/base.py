"""What a kind of part offers, and the registry that holds all kinds.

A kind is one file: spec with units, ports and pins, electrics, fault modes, what it draws, and
everything else that is true of such a part: where it usually sits, its symbol, its words, what is
set on it, the steps of its fitting. A kind enters with ports, electrics and fault modes together.
`circuit` gets the registry handed in.
"""

import typing
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field, fields
from typing import Any, ClassVar, Generic, TypeVar

from brightcore.behaviour.scene import SceneView
from brightcore.behaviour.symptom import Symptom
from brightcore.behaviour.vocabulary import OBSERVABLES, Observable
from brightcore.bike.model import Part, Port, Spec
from brightcore.circuit.controls import Control
from brightcore.circuit.elements import Override
from brightcore.circuit.faults import FaultMode
from brightcore.circuit.stamper import Stamper
from brightcore.errors import UnknownNameError

PLACES = ("energy", "between", "controller", "motor", "bar", "sensor", "light")
"""Where a part stands on the Line."""

CUTS = ("", "brake", "other")
"""What a part cuts the motor by: a brake lever, something else, nothing."""


def spec_value(
    default: Any,
    low: float | None = None,
    high: float | None = None,
    doc: str = "",
    label: str = "",
    later: bool = False,
    awaits: str = "",
    choices: tuple[tuple[str, str], ...] = (),
    usual: tuple[float, float] | None = None,
) -> Any:
    """Return a dataclass field with limits, its words on a form and a line of documentation.

    `later`: came after the first files were written; in a file only where it differs from the
    default. `usual`: what such parts have; another value is taken and told, while `low` and `high`
    bound what is possible at all. `awaits`: the station that will read it; until then forms say so.
    `choices`: (value, words) where only some texts are possible.
    """
    metadata = {
        "low": low,
        "high": high,
        "doc": doc,
        "label": label,
        "later": later,
        "awaits": awaits,
        "choices": choices,
        "usual": usual,
    }
    return field(default=default, metadata=metadata)


def torque_value(doc: str) -> Any:
    """Return a field for a torque that the maker of a part gives, in N·m; 0 where it is not known.

    It says nothing electrical, so what was measured on a part stands whatever its torques are.
    """
    metadata = {
        "low": 0.0,
        "high": 200.0,
        "doc": f"{doc}, by its maker; 0 not known",
        "label": "",
        "later": True,
        "awaits": "",
        "choices": (),
        "usual": None,
    }
    return field(default=0.0, metadata=metadata, repr=False)


@dataclass(frozen=True, slots=True)
class Draw:
    """The most that a part takes through its supply pins of a role, in A at the volts it is made
    for.

    `pin`: only the pin of that name, where the role does not tell. `passes`: the role of an output
    whose load comes on top, at its own volts.
    """

    role: str
    ampere: float
    pin: str = ""
    passes: str = ""


@dataclass(frozen=True, slots=True)
class Feed:
    """What a part gives through one of its pins: volts when on, and the most amps."""

    role: str
    volt: float
    ampere: float


@dataclass(frozen=True, slots=True)
class Fitting:
    """What fitting a part asks for, in the order of work.

    `opened`: what is marked before it is opened ("" where it is not), `opened_caution`: what to
    mind then; `passes_cable`: bearing and cover go over its cable before the plug; `set_words`:
    what is set by hand after first power-up, `set_powered`: with the pack in; `fix_words`,
    `fix_early`, `fix_caution`: how it is then fixed for good; `mounted`: mounted once its plugs are
    in; `where`: where it goes, beside its place.
    """

    opened: str = ""
    opened_caution: str = ""
    passes_cable: bool = False
    set_words: str = ""
    set_powered: bool = False
    fix_words: str = ""
    fix_early: str = ""
    fix_caution: str = ""
    mounted: bool = False
    where: str = ""


@dataclass(frozen=True, slots=True)
class OneThing:
    """The one small thing that a part does, and how it is seen that it does.

    `question` is asked where it is set, `look_at` says where to look when it does not. `proof`
    holds the key, the verb, the act and what is then to be expected, where Prove asks for it;
    `called` names it among what can be proven ("" where it stands for nothing of its own).
    """

    question: str
    look_at: str
    called: str = ""
    proof: tuple[str, str, str, str] | None = None


S = TypeVar("S", bound=Spec)


class PartKind(Generic[S]):
    """Base of all kinds. Override what the kind has; the defaults mean "nothing".

    `place` is where it stands on the Line, `sits` where it usually sits on a frame, `cuts` what it
    cuts the motor by, `swap_min` minutes to swap in a known-good one, `inline` whether a stretch of
    the Line runs through it, `fails_as` the group in which a bike's past weighs its faults,
    `found_on` the roles of the lines that one which nobody described may stand on, `shows` what can
    be seen or heard of it alone, `does` the one small thing that it does, `either_way` whether it
    is a bare contact of two wires that may be exchanged, `sides` which kind of part each plug of a
    module in a line looks to.
    """

    name: str = ""
    title: str = ""
    spec_type: type[S]
    place: str = "bar"
    sits: str = "bar"
    symbol: str = "box"
    swap_min: float = 0.0
    has_spare: bool = False
    fails_as: str = ""
    act: str = "Pull {part}"
    inline: bool = False
    grounds: bool = False
    commutates: bool = False
    needed: bool = False
    cuts: str = ""
    either_way: bool = False
    demands: bool = False
    pedalled: bool = False
    fitting: ClassVar[Fitting] = Fitting()
    shows: ClassVar[tuple[Observable, ...]] = ()
    does: ClassVar[OneThing | None] = None
    found_on: tuple[str, ...] = ()
    symptoms: ClassVar[tuple[Symptom, ...]] = ()
    settings: ClassVar[Mapping[str, str]] = {}
    sides: ClassVar[Mapping[str, str]] = {}
    not_modelled: tuple[str, ...] = ()

    def ports(self, spec: S) -> tuple[Port, ...]:
        """Return the default ports for a spec."""
        return ()

    def stamp(self, s: Stamper, part: Part[S]) -> None:
        """Add the part's elements to a circuit, by pin role."""

    def faults(self, part: Part[S]) -> tuple[FaultMode, ...]:
        """Return the part's own fault modes."""
        return ()

    def controls(self, part: Part[S]) -> tuple[Control, ...]:
        """Return what a technician can set on this part."""
        return ()

    def apply(self, part: Part[S], control: str, value: str) -> tuple[Override, ...]:
        """Return the element overrides of one control value."""
        return ()

    def links(self, part: Part[S]) -> Iterator[tuple[str, str]]:
        """Yield (port.pin, port.pin) that the part simply connects, as a cable does."""
        return iter(())

    def behave(self, part: Part[S], view: SceneView) -> None:
        """Write what would be seen in a scene into the view."""

    def check_spec(self, spec: S) -> Iterator[tuple[str, str]]:
        """Yield (field, message) for values that contradict each other."""
        return iter(())

    def draws(self, part: Part[S]) -> tuple[Draw, ...]:
        """Return what it takes through its supply pins, by role; a controller's own limit is not
        among them."""
        return ()

    def feeds(self, part: Part[S]) -> tuple[Feed, ...]:
        """Return what it gives through its pins, by role."""
        return ()

    def made_for_v(self, spec: S) -> float:
        """Return the volts its supply pin is made for, 0 where they are a window or it has none."""
        return 0.0

    def most_v(self, spec: S) -> float:
        """Return the highest volts its supply pins are rated for, 0 where that is not told."""
        return 0.0

    def highest_ratio(self, spec: S, role: str) -> float:
        """Return the most that an output of a role gives over its supply, 0 where it drives
        nothing."""
        return 0.0

    def rated_a(self, spec: S) -> float:
        """Return the current by which two such parts are alike, 0 where none is told."""
        return 0.0


AnyKind = PartKind[Any]
"""A kind of which only the name is known."""


class Registry:
    """All kinds by name."""

    def __init__(self, kinds: tuple[AnyKind, ...]) -> None:
        self._kinds = {kind.name: kind for kind in kinds}
        for kind in kinds:
            for observable in kind.shows:
                OBSERVABLES[observable.id] = observable

    def __getitem__(self, name: str) -> AnyKind:
        try:
            return self._kinds[name]
        except KeyError:
            raise UnknownNameError("kind", name, tuple(self._kinds)) from None

    def __iter__(self) -> Iterator[AnyKind]:
        return iter(self._kinds.values())

    def names(self) -> tuple[str, ...]:
        """Return the names of all kinds."""
        return tuple(self._kinds)


@dataclass(frozen=True, slots=True)
class SpecField:
    """One field of a spec: name, type, limits, its words and its line of documentation."""

    name: str
    hint: object
    default: object
    low: float | None
    high: float | None
    doc: str
    label: str
    later: bool
    awaits: str
    choices: tuple[tuple[str, str], ...]
    usual: tuple[float, float] | None


def spec_fields(spec_type: type[Spec]) -> Iterator[SpecField]:
    """Yield the fields of a spec dataclass, in order."""
    hints = type_hints(spec_type)
    for item in fields(spec_type):
        meta = item.metadata
        yield SpecField(
            item.name,
            hints[item.name],
            item.default,
            meta.get("low"),
            meta.get("high"),
            meta.get("doc", ""),
            meta.get("label", ""),
            meta.get("later", False),
            meta.get("awaits", ""),
            meta.get("choices", ()),
            meta.get("usual"),
        )


def type_hints(spec_type: type[Spec]) -> dict[str, object]:
    """Return the types of a spec's fields by name."""
    return typing.get_type_hints(spec_type)
