"""What an act is. A new act is one file here and one line in `ACTS`."""

from abc import ABC, abstractmethod
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from functools import cached_property
from typing import ClassVar

from brightcore.bike.model import Bike
from brightcore.circuit.netlist import Circuit
from brightcore.errors import UnknownNameError
from brightcore.practice.case import Case
from brightcore.practice.hazards import BY_KEY as HAZARD
from brightcore.practice.hidden import Bench, HiddenBike, hidden_bike
from brightcore.practice.state import State
from brightcore.tracing.engine import Engine
from brightcore.tracing.evidence import Evidence

Said = Mapping[str, str]
"""What an act was told, by name."""


@dataclass(frozen=True, slots=True)
class Choice:
    """One way to do an act: what it is told, in words, and the group it stands under."""

    said: tuple[tuple[str, str], ...]
    words: str
    group: str = ""


@dataclass(frozen=True, slots=True)
class Done:
    """What an act has done: the state after it, what was seen or read, minutes, evidence for the
    engine.

    `refused`: in words why it cannot be done now; nothing then happened. `hazard`: the key of one.
    """

    state: State
    words: str
    minutes: float = 0.0
    evidence: tuple[Evidence, ...] = ()
    hazard: str = ""
    refused: str = ""
    cost: float = 0.0


@dataclass(frozen=True)
class Play:
    """A case being played: its bike and an engine that knows its tests, with nothing worked out."""

    case: Case
    engine: Engine

    @property
    def bike(self) -> Bike:
        """The bike as described."""
        return self.case.bike

    @property
    def circuit(self) -> Circuit:
        """Its circuit as described."""
        return self.engine.circuit

    def hidden(self, state: State) -> HiddenBike:
        """Return the hidden bike as it answers at the next act."""
        found = hidden_bike(self.case, frozenset(state.gone))
        return found.at(Bench(state.act, state.brought))

    @cached_property
    def names(self) -> dict[str, str]:
        """Names of parts by id."""
        return {part.id: part.name for part in self.bike.parts}


class Act(ABC):
    """One kind of act. `group` heads its choices on the page."""

    key: ClassVar[str]
    group: ClassVar[str]

    @abstractmethod
    def choices(self, play: Play, state: State) -> Iterator[Choice]:
        """Yield the ways in which it can be done now."""

    @abstractmethod
    def do(self, play: Play, state: State, said: Said) -> Done:
        """Do it; raises UnknownNameError for what the bike does not have."""


def refused(state: State, words: str) -> Done:
    """Return an act that cannot be done now; nothing has happened."""
    return Done(state, "", refused=words)


def careless(state: State, key: str) -> Done:
    """Return what a careless act comes to: words, minutes, and the state left as it was."""
    hazard = HAZARD[key]
    return Done(state, hazard.words, hazard.minutes, hazard=key)


def one_of(value: str, known: "Iterator[str] | list[str] | tuple[str, ...]", what: str) -> str:
    """Return a value; raises UnknownNameError where it is none of those known."""
    names = tuple(known)
    if value not in names:
        raise UnknownNameError(what, value, names)
    return value


def let_go(state: State) -> State:
    """Return the state with everything that was held let go."""
    return replace(state, held=())
