"""Three unknown wires of a throttle or a sensor."""

import random

from brightcore.kinds.throttle import ThrottleSpec
from brightcore.practice.drills.base import Drill, Question, lettered


class ThreeWires(Drill):
    """Which of three wires is the signal?"""

    key, title = "three-wires", "Three unknown wires"

    def make(self, rng: random.Random) -> Question:
        spec = ThrottleSpec()
        supply = round(rng.uniform(4.7, 5.2), 2)
        rest = round(supply * spec.rest_ratio * rng.uniform(0.9, 1.1), 2)
        full = round(supply * spec.full_ratio * rng.uniform(0.95, 1.05), 2)
        roles = ["supply", "ground", "signal"]
        rng.shuffle(roles)
        asked = rng.choice(roles)
        colours = rng.sample(("grey", "violet", "brown", "white", "pink", "black"), 3)
        at_rest = {"supply": supply, "ground": 0.0, "signal": rest}
        pulled = {"supply": supply, "ground": 0.0, "signal": full}
        choices = lettered(colours)
        answer = choices[roles.index(asked)][0]
        rows = []
        for colour, role in zip(colours, roles, strict=True):
            rows.append((colour, f"{at_rest[role]:.2f} V at rest, {pulled[role]:.2f} V pulled"))
        given = tuple(rows)
        words = {"supply": "the 5 V supply", "ground": "ground", "signal": "the signal"}
        return Question(
            f"Plugged in and switched on, against pack −. Which wire is {words[asked]}?",
            "one",
            (answer,),
            f"The supply stays near 5 V, ground at 0, and only the signal moves: {rest:.2f} to "
            f"{full:.2f} V. Colours agree on nothing.",
            given,
            choices,
        )
