"""The words for what is seen: observables, their classes, and how often one is taken for another.

Confusion rates are common practice. A complaint's symptoms use the same words.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray


@dataclass(frozen=True, slots=True)
class Observable:
    """Something that can be seen: id, question, classes (id, words), and confusable pairs.

    `broader`: answers that leave open which of several classes it was (id, words, the classes).
    """

    id: str
    question: str
    classes: tuple[tuple[str, str], ...]
    confusable: tuple[tuple[str, str, float], ...] = ()
    slip: float = 0.02
    broader: tuple[tuple[str, str, tuple[str, ...]], ...] = ()

    def ids(self) -> tuple[str, ...]:
        """Return the class ids in order."""
        return tuple(c for c, _ in self.classes)

    def answers(self) -> tuple[str, ...]:
        """Return what may be said: every class, and what leaves open which of several it was."""
        return (*self.ids(), *(answer for answer, _, _ in self.broader))

    def meant(self, answer: str) -> list[int]:
        """Return the codes of the classes that an answer may mean."""
        ids = self.ids()
        for name, _, among in self.broader:
            if name == answer:
                return [ids.index(class_id) for class_id in among]
        return [ids.index(answer)]

    def words(self, answer: str) -> str:
        """Return the words of an answer."""
        broader = {name: words for name, words, _ in self.broader}
        return (broader | dict(self.classes))[answer]

    def seen_given(self) -> NDArray[np.float64]:
        """Return P(seen | true), rows true, columns seen; rows sum to 1."""
        ids = self.ids()
        matrix = np.full((len(ids), len(ids)), self.slip / max(len(ids) - 1, 1))
        for a, b, rate in self.confusable:
            matrix[ids.index(a), ids.index(b)] = matrix[ids.index(b), ids.index(a)] = rate
        np.fill_diagonal(matrix, 0.0)
        np.fill_diagonal(matrix, 1.0 - matrix.sum(axis=1))
        return matrix


MOTOR = Observable(
    "motor",
    "What does the motor do?",
    (
        ("smooth", "runs smoothly"),
        ("silent", "does nothing"),
        ("twitch", "twitches, then stops"),
        ("rough", "shudders or runs rough"),
        ("cuts", "runs, then cuts out"),
        ("free", "motor runs, wheel does not turn"),
        ("weak", "runs slowly, never full speed"),
    ),
    (
        ("twitch", "rough", 0.12),
        ("twitch", "cuts", 0.05),
        ("silent", "twitch", 0.03),
        # On two phases it starts from some places of the wheel and not from others.
        ("silent", "rough", 0.06),
        ("smooth", "weak", 0.04),
    ),
)
DISPLAY = Observable(
    "display", "Is the display lit?", (("lit", "lit"), ("dark", "dark")), slip=0.01
)
SYMBOL = Observable(
    "brake_symbol",
    "Does the brake symbol show?",
    (("off", "not shown"), ("shown", "shown")),
    slip=0.03,
)
ERROR = Observable(
    "error",
    "Which error shows?",
    (
        ("none", "no error"),
        ("throttle", "throttle error"),
        ("hall", "hall or motor sensor error"),
        ("temperature", "temperature error"),
        ("communication", "communication error"),
        ("power", "power stage or phase error"),
        ("voltage", "voltage error"),
        ("torque", "pedal torque error"),
    ),
    (("none", "hall", 0.04), ("none", "power", 0.04)),
    slip=0.03,
)
LAMP = Observable("lamp", "Is the lamp lit?", (("lit", "lit"), ("dark", "dark")), slip=0.01)
SPEED = Observable(
    "speed",
    "Does the display show speed?",
    (("shown", "speed shown"), ("none", "stays at 0"), ("wrong", "a speed that cannot be")),
)
DRAG = Observable(
    "drag",
    "How does the motor turn by hand?",
    (("free", "turns freely"), ("drags", "turns with strong cogging")),
)
BRAKING = Observable(
    "braking",
    "How does the motor turn with its phases clipped together?",
    (("even", "stiff, evenly"), ("lumps", "stiff in lumps"), ("free", "as freely as before")),
    (("even", "lumps", 0.1),),
)
HALL_STEPS = Observable(
    "hall_steps",
    "How do halls A, B and C switch between about 0 and 5 V?",
    (
        ("three", "all three switch"),
        ("high_a", "A stays near 5 V, the others switch"),
        ("high_b", "B stays near 5 V, the others switch"),
        ("high_c", "C stays near 5 V, the others switch"),
        ("low_a", "A stays low, the others switch"),
        ("low_b", "B stays low, the others switch"),
        ("low_c", "C stays low, the others switch"),
        ("fewer", "one or none switches"),
    ),
    broader=(
        ("high", "two switch, one stays near 5 V", ("high_a", "high_b", "high_c")),
        ("low", "two switch, one stays low", ("low_a", "low_b", "low_c")),
    ),
)
CHARGING = Observable(
    "charging",
    "What does the charger show?",
    (("charging", "charging"), ("idle", "full, or nothing to charge"), ("dark", "stays dark")),
    slip=0.03,
)


SEEN = (DISPLAY, SYMBOL, ERROR, MOTOR, SPEED, LAMP, DRAG, BRAKING, HALL_STEPS, CHARGING)


class Observables(dict[str, Observable]):
    """Observables by id; `motor-left_motor` is the observable `motor` of the part `left_motor`."""

    def __missing__(self, name: str) -> Observable:
        if "-" in name:
            return self[name.partition("-")[0]]
        return _unknown(name)


def _unknown(name: str) -> Observable:
    raise KeyError(name)


OBSERVABLES = Observables({o.id: o for o in SEEN})
"""All of them; what only one kind of part shows comes in with that kind."""
