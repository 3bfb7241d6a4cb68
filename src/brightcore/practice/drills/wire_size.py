"""Which wire for a current over a length?"""

import random

from brightcore.physics.gauges import STANDARD_MM2
from brightcore.practice.drills.base import Drill, Question
from brightcore.wiring.conductors import size_conductor


class WireSize(Drill):
    """The smallest standard area that keeps the drop and the heat."""

    key, title = "wire-size", "Wire size"

    def make(self, rng: random.Random) -> Question:
        while True:
            amps, metres = rng.choice((6, 10, 15, 20, 25, 30, 40)), rng.choice((0.5, 0.8, 1.0, 1.5))
            drop = rng.choice((0.25, 0.5))
            sized = size_conductor(float(amps), metres, drop)
            wanted = max(sized.by_drop_mm2, sized.by_heat_mm2)
            if abs(wanted / sized.area_mm2 - 1) > 0.03 and 0.75 <= sized.area_mm2 <= 10.0:
                break
        k = STANDARD_MM2.index(sized.area_mm2)
        around = STANDARD_MM2[max(0, k - 2) : k + 2]
        choices = tuple((f"{area:g}", f"{area:g} mm²") for area in around)
        return Question(
            "Which is the smallest standard area for this lead, there and back?",
            "one",
            (f"{sized.area_mm2:g}",),
            f"The drop asks for {sized.by_drop_mm2:.2f} mm², the heat for {sized.by_heat_mm2:.2f} "
            f"mm²: {sized.area_mm2:g} mm² then drops {sized.drop_v:.2f} V and warms by "
            f"{sized.rise_k:.0f} K.",
            (
                ("Current", f"{amps} A"),
                ("Length, one way", f"{metres:g} m"),
                ("Allowed drop", f"{drop:g} V"),
            ),
            choices,
        )
