"""The exception tree of the core.

BrightError
├── BikeError       a description that cannot be turned into a circuit
├── FormatError     an open file with one or more problems, each with its JSON path
├── UnknownNameError  a pin, fault, condition or part that does not exist
└── ReadingError    a reading that cannot be understood
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
        super().__init__(f"no {thing} called {name!r}" + (f"; for example: {close}" if close else ""))


class ReadingError(BrightError):
    """A typed reading is not a number with a fitting unit."""


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
