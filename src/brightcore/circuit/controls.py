"""What a technician can set on a part, and what the circuit asks of a kind of part."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any, Protocol

from brightcore.circuit.elements import Override
from brightcore.circuit.faults import FaultMode


@dataclass(frozen=True, slots=True)
class Control:
    """Something a technician can set: a grip, a lever, the cranks, the rotor.

    `values` in order with the resting one first; `words` say how to do it. `moves`: "hand" where a
    hand moves it and holds it there, "turns" where it goes round, "" where it is neither.
    """

    id: str
    values: tuple[str, ...]
    words: tuple[str, ...]
    moves: str = ""


class CircuitKind(Protocol):
    """What the circuit needs of a kind of part. `stamp` is handed a `Stamper`."""

    @property
    def grounds(self) -> bool:
        """Whether its inner node `minus` is the ground of the whole circuit."""

    @property
    def commutates(self) -> bool:
        """Whether it drives phases in order, so that an exchange of them shows."""

    def stamp(self, s: Any, part: Any) -> None:
        """Add the part's elements to a circuit."""

    def faults(self, part: Any) -> tuple[FaultMode, ...]:
        """Return the part's own fault modes."""

    def controls(self, part: Any) -> tuple[Control, ...]:
        """Return what a technician can set on it."""

    def apply(self, part: Any, control: str, value: str) -> tuple[Override, ...]:
        """Return the element overrides of one control value."""

    def links(self, part: Any) -> Iterator[tuple[str, str]]:
        """Yield (port.pin, port.pin) that the part simply connects."""


class KindTable(Protocol):
    """Kinds by name, handed to the circuit."""

    def __getitem__(self, name: str) -> CircuitKind:
        """Return the kind of that name."""
