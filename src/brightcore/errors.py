"""The exception tree of the core.

BrightError ├── BikeError       a description that cannot be turned into a circuit ├── FormatError
an open file with one or more problems, each with its JSON path ├── UnknownNameError  a pin, fault,
condition or part that does not exist ├── ReadingError    a reading that cannot be understood └──
RangeError      a value outside the range in which a formula holds
"""

from dataclasses import dataclass


class BrightError(Exception):
    """Base of all errors raised by the core."""


class BikeError(BrightError):
    """A bike description breaks a rule that the circuit needs."""


class UnknownNameError(BrightError):
    """A name was given that the bike does not have."""

    def __init__(self, thing: str, name: str, known: tuple[str, ...] = ()) -> None:
        self.thing, self.name, self.known = thing, name, known
        close = ", ".join(known[:8])
        super().__init__(
            f"no {thing} called {name!r}" + (f"; for example: {close}" if close else "")
        )


class ReadingError(BrightError):
    """A typed reading is not a number with a fitting unit."""


class RangeError(BrightError):
    """A value lies outside the range in which a formula holds; names the field, the value and the
    range."""

    def __init__(self, field: str, value: float, expected: str) -> None:
        self.field, self.value, self.expected = field, value, expected
        super().__init__(f"{field.replace('_', ' ')} is {value:g}; {expected}")


def require(field: str, value: float, low: float, high: float, unit: str = "") -> float:
    """Return the value; raises RangeError where it is not a number from `low` to `high`."""
    if not low <= value <= high:
        raise RangeError(field, value, f"it must lie from {low:g} to {high:g} {unit}".rstrip())
    return value


@dataclass(frozen=True, slots=True)
class Problem:
    """One thing wrong in a file: where (JSON path) and what."""

    path: str
    message: str

    def __str__(self) -> str:
        return f"{self.path}: {self.message}"


class FormatError(BrightError):
    """A file was refused; `problems` lists everything that is wrong with it."""

    def __init__(self, problems: tuple[Problem, ...]) -> None:
        self.problems = problems
        super().__init__("; ".join(str(problem) for problem in problems))
