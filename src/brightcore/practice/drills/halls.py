"""Hall codes, and the one that is missing."""

import random

from brightcore.kinds.motor import HALL_CODES
from brightcore.practice.drills.base import Drill, Question, lettered

SENSORS = ("A", "B", "C")


class HallCodes(Drill):
    """Which code is missing, or which hall is stuck?"""

    key, title = "halls", "Hall codes and the missing one"

    def make(self, rng: random.Random) -> Question:
        start = rng.randrange(6)
        turn = [HALL_CODES[(start + k) % 6] for k in range(6)]
        if rng.random() < 0.5:
            gone = turn.pop(rng.randrange(1, 5))
            others = []
            for code in ("000", "111", *HALL_CODES):
                if code not in turn and code != gone:
                    others.append(code)
            shown = [gone, *rng.sample(others, min(2, len(others)))]
            rng.shuffle(shown)
            choices = lettered(shown)
            return Question(
                "Sensors at 120°, rotor turned slowly. Which code belongs where one is left out?",
                "one",
                (choices[shown.index(gone)][0],),
                (
                    "One sensor changes at a time, six codes a turn; 000 and 111 never come. "
                    f"Missing is {gone}."
                ),
                (("Codes", " ".join(turn)),),
                choices,
            )
        stuck, level = rng.randrange(3), rng.choice("01")
        seen = [code[:stuck] + level + code[stuck + 1 :] for code in turn]
        choices = lettered([f"hall {name}" for name in SENSORS])
        return Question(
            "Sensors at 120°, rotor turned slowly. Which hall is stuck?",
            "one",
            (choices[stuck][0],),
            (
                f"A and its fellows switch three codes on, three off; hall {SENSORS[stuck]} is "
                f"always {level}."
            ),
            (("Codes (A B C)", " ".join(seen)),),
            choices,
        )
