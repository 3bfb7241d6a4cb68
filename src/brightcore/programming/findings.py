"""What checks of values look at, and what they find."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass

from brightcore.bike.model import Bike, Part
from brightcore.programming.case import Aim
from brightcore.programming.derive import Derived

Values = Mapping[tuple[str, str], float]
"""What devices are set to: (part, role) → value in the role's unit."""

SAME_SHARE = 0.02
"""Values nearer to each other than this share are the same: displays round."""


@dataclass(frozen=True, slots=True)
class ValueFinding:
    """Something wrong between values: code, severity, what, what to change, and the devices it is
    about."""

    code: str
    severity: str
    text: str
    change: str
    parts: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Programmed:
    """What checks look at: the bike as worked with, what its devices are set to, what is wanted,
    the aim."""

    bike: Bike
    values: Values
    wanted: tuple[Derived, ...]
    aim: Aim

    def value(self, part: Part, role: str) -> float | None:
        """Return what a device is set to, None where nobody has read it."""
        return self.values.get((part.id, role))

    def holders(self, role: str) -> Iterator[tuple[Part, float]]:
        """Yield (device, value) of every device of which a role is known."""
        for part in self.bike.parts:
            value = self.value(part, role)
            if value is not None:
                yield part, value

    def want(self, part: Part, role: str) -> float | None:
        """Return what a device should be set to, None where the bike does not say."""
        return next((d.value for d in self.wanted if (d.part, d.role) == (part.id, role)), None)


Found = Iterator[ValueFinding]


def part_ids(found: Sequence[tuple[Part, float]]) -> tuple[str, ...]:
    """Return the ids of the devices of (device, value) rows."""
    return tuple(part.id for part, _ in found)
