"""Which plugs does the first power-up need?"""

import random
from functools import lru_cache

from brightcore.bike.model import Bike
from brightcore.circuit.contacts import join_title
from brightcore.describing.patterns import PATTERNS, make_pattern
from brightcore.practice.drills.base import Drill, Question
from brightcore.procedure.first_power_up import FirstPowerUp, find_first_power_up

BIKES = ("hub-conversion", "mid-conversion", "folding", "factory-hub", "hand-cycle", "soft-packs")
SHOWN = 5


@lru_cache(maxsize=len(BIKES))
def _bike(name: str) -> tuple[Bike, FirstPowerUp]:
    bike = make_pattern(name, name)
    return bike, find_first_power_up(bike)


class FirstPlugs(Drill):
    """Choose the connections without which the motor does not turn."""

    key, title = "first-plugs", "Plugs for the first power-up"

    def make(self, rng: random.Random) -> Question:
        while True:
            bike, light = _bike(rng.choice(BIKES))
            if light.needed and light.not_needed:
                break
        needed = rng.sample(light.needed, min(len(light.needed), 3))
        others = rng.sample(light.not_needed, min(len(light.not_needed), SHOWN - len(needed)))
        shown = [*needed, *others]
        rng.shuffle(shown)
        titles = {join.id: join_title(bike, join) for join in bike.joins}
        choices = tuple((name, titles[name]) for name in shown)
        words = ", ".join(titles[name] for name in shown if name in needed)
        return Question(
            f"{PATTERNS[bike.info.label][0]}: which of these does the motor need to turn at all?",
            "many",
            tuple(name for name in shown if name in needed),
            f"Needed: {words}. Energy, phases, halls unless it runs without, the key line, and "
            "one that asks for power. All else waits until it runs.",
            (),
            choices,
        )
