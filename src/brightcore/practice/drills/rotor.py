"""Which way is the rotor turned by hand?"""

import random
from functools import lru_cache

from brightcore.bike.model import Bike
from brightcore.describing.patterns import PATTERNS, make_pattern
from brightcore.kinds.mid_motor import MidMotorSpec
from brightcore.kinds.motor import MotorSpec
from brightcore.practice.drills.base import Drill, Question

WAYS = (
    ("back", "turn the wheel backwards"),
    ("either", "turn the wheel either way"),
    ("cranks", "turning the wheel does not move it: turn the motor's own shaft or ring"),
)


@lru_cache(maxsize=20)
def _bike(name: str) -> Bike:
    return make_pattern(name, name)


class RotorWay(Drill):
    """Geared hubs freewheel forwards; direct drives turn either way; mid drives are behind a
    clutch."""

    key, title = "rotor", "Which way to turn the rotor"

    def make(self, rng: random.Random) -> Question:
        bike = _bike(rng.choice(tuple(PATTERNS)))
        part = next(part for part in bike.parts if isinstance(part.spec, MotorSpec))
        spec = part.spec
        assert isinstance(spec, MotorSpec)
        mid = isinstance(spec, MidMotorSpec)
        if mid:
            answer = "cranks"
        elif spec.geared():
            answer = "back"
        else:
            answer = "either"
        if mid:
            kind = "mid drive"
        elif spec.geared():
            kind = "geared hub"
        else:
            kind = "direct drive hub"
        if spec.gear_ratio > 1:
            ratio = f"{spec.gear_ratio:g} : 1"
        else:
            ratio = "none"
        return Question(
            "The halls are to be read while the rotor turns by hand. How is it turned?",
            "one",
            (answer,),
            f"It is a {kind}: "
            + {
                "back": "its clutch runs free forwards, so the rotor only follows backwards.",
                "either": "rotor and wheel are one; it follows either way.",
                "cranks": "chain and freewheel stand between wheel and motor.",
            }[answer],
            (
                ("Motor", f"{part.name}, {'at the cranks' if mid else 'in the wheel'}"),
                ("Reduction", ratio),
            ),
            WAYS,
        )
