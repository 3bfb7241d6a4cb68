"""Evidence: one thing measured or seen, and how much repeats of it weigh.

What a kind of evidence means (its likelihood, its words) is with the kinds of test in `tracing.tests`.
"""

from dataclasses import dataclass

SOMETIMES_WEIGHT = 0.5
"""Weight of what shows only sometimes (common practice)."""

REPEAT_WEIGHT = 0.5
"""Weight of the second and later looks at one observable with the same answer: not independent."""


@dataclass(frozen=True, slots=True)
class Evidence:
    """One thing measured or seen. Which fields matter depends on `kind` (see docs/formats).

    `meter` names the instrument it was read with, "" for the usual one.
    """

    kind: str
    value: str
    condition: str = ""
    red: str = ""
    black: str = ""
    scene: str = ""
    observable: str = ""
    subject: str = ""
    sometimes: bool = False
    meter: str = ""

    @property
    def weight(self) -> float:
        """How much it counts by itself."""
        return SOMETIMES_WEIGHT if self.sometimes else 1.0


def repeat_weights(items: list[Evidence]) -> list[float]:
    """Return a weight per item: later looks with the same observable and answer count half."""
    seen: set[tuple[str, str]] = set()
    weights = []
    for item in items:
        again = bool(item.observable) and (item.observable, item.value) in seen
        weights.append(REPEAT_WEIGHT if again else 1.0)
        seen.add((item.observable, item.value))
    return weights
