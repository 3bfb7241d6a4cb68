"""What a drill is: a topic that makes questions without end, each with its answer from the core.

A new drill is one file here and one line in `DRILLS`.
"""

import random
from abc import ABC, abstractmethod
from collections.abc import Sequence
from dataclasses import dataclass
from typing import ClassVar

from brightcore.errors import BrightError, RangeError
from brightcore.units import parse_in

MOST_ORDERED = 6


@dataclass(frozen=True, slots=True)
class Question:
    """One question.

    `form`: "number" in `unit` within `tolerance` (a share), "one" of `choices`, "many" of them, or
    "order". `given`: rows of (name, value) to go by. `answer`: a number as text, or ids of choices;
    for "order" all of them in one right order, and `before` the pairs that must keep theirs.
    `explain`: why, with the numbers at hand.
    """

    text: str
    form: str
    answer: tuple[str, ...]
    explain: str
    given: tuple[tuple[str, str], ...] = ()
    choices: tuple[tuple[str, str], ...] = ()
    unit: str = ""
    tolerance: float = 0.03
    before: tuple[tuple[str, str], ...] = ()

    def judge(self, said: Sequence[str]) -> bool:
        """Return whether an answer is right; raises ReadingError or RangeError for what is none."""
        if self.form == "number":
            value = parse_in(said[0] if said else "", self.unit)
            wanted = float(self.answer[0])
            return abs(value - wanted) <= max(abs(wanted) * self.tolerance, 1e-9)
        if self.form == "order":
            return self._in_order(said)
        known = {key for key, _ in self.choices}
        if not said or not set(said) <= known:
            raise RangeError("answer", len(said), "choose one of the list")
        return set(said) == set(self.answer)

    def _in_order(self, said: Sequence[str]) -> bool:
        if sorted(said) != sorted(self.answer):
            raise RangeError("order", len(said), "give every step a number of its own")
        place = {key: k for k, key in enumerate(said)}
        return all(place[a] < place[b] for a, b in self.before)

    @property
    def answer_words(self) -> str:
        """The right answer in words."""
        if self.form == "number":
            return f"{float(self.answer[0]):.4g} {self.unit}".strip()
        titles = dict(self.choices)
        return "; ".join(titles[key] for key in self.answer)


class Drill(ABC):
    """One topic."""

    key: ClassVar[str]
    title: ClassVar[str]

    @abstractmethod
    def make(self, rng: random.Random) -> Question:
        """Return a question."""


def question(drill: Drill, seed: str) -> Question:
    """Return the question of a seed: the same for the same seed."""
    return drill.make(random.Random(f"{drill.key}|{seed}"))


def lettered(items: Sequence[str]) -> tuple[tuple[str, str], ...]:
    """Return choices with letters as ids."""
    return tuple((chr(ord("a") + k), text) for k, text in enumerate(items))


def is_answer(question: Question, said: Sequence[str]) -> bool | None:
    """Return whether an answer is right, None where it is no answer at all."""
    try:
        return question.judge(said)
    except BrightError:
        return None
