"""A thermistor of 10 kΩ."""

import random

from brightcore.practice.drills.base import Drill, Question
from brightcore.setting.temperature import resistance_ohm

CHOICES = ("cold", "warm", "hot", "stop", "open")
WORDS = (
    ("cold", "cold: under 40 °C"),
    ("warm", "warm: 40 to 90 °C"),
    ("hot", "hot: 90 to 120 °C, power goes back"),
    ("stop", "too hot: over 120 °C, stop"),
    ("open", "no thermistor: open, or the plug is not home"),
)
RANGES = {"cold": (2.0, 36.0), "warm": (45.0, 84.0), "hot": (94.0, 115.0), "stop": (125.0, 150.0)}
R25_OHM, OPEN_KOHM = 10_000.0, (400, 900)


class Thermistor(Drill):
    """What does its resistance say?"""

    key, title = "thermistor", "A thermistor"

    def make(self, rng: random.Random) -> Question:
        beta, verdict = rng.choice((3435.0, 3950.0)), rng.choice(CHOICES)
        if verdict == "open":
            shown, why = f"{rng.randint(*OPEN_KOHM)} kΩ", "Nothing in a motor is that cold"
        else:
            celsius = rng.uniform(*RANGES[verdict])
            ohm = resistance_ohm(celsius, R25_OHM, beta)
            if ohm >= 1000:
                shown = f"{ohm / 1000:.2f} kΩ"
            else:
                shown = f"{ohm:.0f} Ω"
            why = f"{shown} is {celsius:.0f} °C"
        marks = []
        for t in (40, 90, 120):
            marks.append(f"{t} °C: {resistance_ohm(t, R25_OHM, beta):.0f} Ω")
        return Question(
            f"A 10 kΩ thermistor with β {beta:.0f} K in a winding. What does it say?",
            "one",
            (verdict,),
            f"{why}. R = 10 kΩ × exp(β(1/T − 1/298)): {', '.join(marks)}.",
            (("Read, plug off", shown),),
            WORDS,
        )
