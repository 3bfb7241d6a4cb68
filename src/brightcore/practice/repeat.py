"""When a topic comes again: boxes with growing waits (Leitner 1972, from memory)."""

from dataclasses import dataclass
from datetime import date, timedelta

WAITS_DAYS = (0, 1, 3, 7, 16, 35)
"""Days until a topic comes again, by its box."""


@dataclass(frozen=True, slots=True)
class Box:
    """Where a topic stands for one learner: its box, and the day on which it comes again."""

    box: int = 0
    due: date | None = None

    def is_due(self, today: date) -> bool:
        """Return whether it is to be asked today; what was never asked is."""
        return self.due is None or self.due <= today


def answered(box: Box, right: bool, today: date) -> Box:
    """Return where a topic stands after an answer: one box up, or back to the first.

    A right answer before its day leaves it where it is.
    """
    if not right:
        return Box(0, today)
    if not box.is_due(today):
        return box
    up = min(box.box + 1, len(WAITS_DAYS) - 1)
    return Box(up, today + timedelta(days=WAITS_DAYS[up]))
