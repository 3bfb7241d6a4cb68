"""What the bands of one point are, and in which of them a value lies."""

from dataclasses import dataclass

USUAL, OFF, DANGER, IMPOSSIBLE = "usual", "off", "danger", "impossible"
"""In rising order: as it should be, out of order, can hurt, cannot have been read so."""

Window = tuple[float, float]


@dataclass(frozen=True, slots=True)
class Hazard:
    """A danger on one side of a point's window: what it is called, and what to do now.

    `text` is filled with the value as read, and `usual` with what is usual there.
    """

    code: str
    text: str
    do: str


@dataclass(frozen=True, slots=True)
class Bands:
    """The bands of a point in its `unit`.

    A value in one of the `usual` windows is as it should be. Outside `safe` it is a danger, `below`
    or `above`. Outside `can` no meter shows it there. What is left is off.
    """

    point: str
    unit: str
    usual: tuple[Window, ...]
    safe: Window
    can: Window
    below: Hazard | None
    above: Hazard | None

    def of(self, value: float) -> str:
        """Return in which band a value lies; a value at an edge belongs to the milder one.

        >>> from brightcore.bands.points import rail
        >>> [rail().of(volt) for volt in (5.0, 5.4, 5.6, 1001.0)]
        ['usual', 'off', 'danger', 'impossible']
        """
        if not self.can[0] <= value <= self.can[1]:
            return IMPOSSIBLE
        if self.hazard(value) is not None:
            return DANGER
        if any(low <= value <= high for low, high in self.usual):
            return USUAL
        return OFF

    def hazard(self, value: float) -> Hazard | None:
        """Return the danger that a value is, None where it is none."""
        if value < self.safe[0]:
            return self.below
        if value > self.safe[1]:
            return self.above
        return None

    @property
    def usual_words(self) -> str:
        """What is usual there, in the point's unit."""
        windows = (f"{low:g} to {high:g}" for low, high in self.usual)
        return f"{' or '.join(windows)} {self.unit}"
