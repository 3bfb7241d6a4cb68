"""A symptom as riders report it: one thing seen in one scene, in the words of the vocabulary."""

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Symptom:
    """One reportable symptom: id, words, and the look it amounts to.

    `every`: it holds for every such part of a bike with several; otherwise it is not said which
    part shows it. `rank`: how soon it is asked, lowest first (common practice).
    `suggested_by`: beginnings of a rider's words that may mean it.
    """

    id: str
    words: str
    scene: str
    observable: str
    value: str
    every: bool = False
    rank: int = 50
    suggested_by: tuple[str, ...] = ()
