"""What a shop has and how it works: tests that cannot be done here, and how long the others
take."""

from collections.abc import Mapping
from dataclasses import dataclass, field

SLOWEST = 5.0
"""Times the usual minutes that a shop may need for a kind of test; the fastest is one over it."""

USUAL_RATE = 60.0
"""Labour for an hour in the shop's money, where the shop has not said (common practice)."""


@dataclass(frozen=True, slots=True)
class Terms:
    """`skip`: ids of tests that cannot be done on this job; `without`: kinds that this shop does
    not do; `pace`: minutes against the usual ones, by kind; `halves`: which halves of a donor
    are to hand and fit, and which tests of what it has behind a plug. `dead_first`: a hazard was
    told, so that tests without power come first, in the order of `hazard`."""

    skip: frozenset[str] = frozenset()
    without: frozenset[str] = frozenset()
    pace: Mapping[str, float] = field(default_factory=dict)
    halves: frozenset[str] = frozenset()
    dead_first: bool = False
    rate: float = USUAL_RATE

    def leaves_out(self, test_id: str, kind: str, half: str) -> bool:
        """Return whether a test is not proposed; `half`: which half of a donor it needs, ""
        none."""
        return (
            test_id in self.skip or kind in self.without or bool(half and half not in self.halves)
        )

    def minutes(self, kind: str, usual: float) -> float:
        """Return how long a test of a kind takes here, in minutes."""
        return usual * self.pace.get(kind, 1.0)


USUAL = Terms()
"""Everything to hand but a donor, at the usual pace."""
