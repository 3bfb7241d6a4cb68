"""Kv, pole pairs, reduction."""

import random

from brightcore.physics.machine import effective_pole_pairs, hub_free_kmh, torque_per_a
from brightcore.practice.drills.base import Drill, Question


class MotorNumbers(Drill):
    """Pole pairs behind a reduction, free speed, torque per ampere."""

    key, title = "motor", "Kv, pole pairs, reduction"

    def make(self, rng: random.Random) -> Question:
        asked = rng.choice(("pairs", "speed", "torque"))
        if asked == "pairs":
            magnets, ratio = (
                rng.choice((16, 20, 22, 30, 32, 40, 46)),
                rng.choice((1.0, 4.4, 5.0, 9.0, 11.0)),
            )
            found = effective_pole_pairs(magnets, ratio)
            return Question(
                (
                    "The controller counts electrical turns per turn of the wheel. How many pole "
                    "pairs?"
                ),
                "number",
                (f"{found:.6g}",),
                f"{magnets} magnets are {magnets // 2} pairs; behind {ratio:g}:1 that is "
                f"{magnets // 2} × {ratio:g} = {found:.4g}.",
                (("Magnets on the rotor", str(magnets)), ("Reduction", f"{ratio:g} : 1")),
                tolerance=0.005,
            )
        kv = round(rng.uniform(6.5, 12.0), 1)
        if asked == "speed":
            volts, mm = rng.choice((36.0, 48.0, 52.0)), rng.choice((1590, 1940, 2070, 2200))
            found = hub_free_kmh(kv, volts, mm / 1000)
            return Question(
                "A hub motor, wheel up, full throttle, no limit set: how fast would its wheel go?",
                "number",
                (f"{found:.6g}",),
                f"{kv:g} × {volts:g} = {kv * volts:.0f} turns a minute, times {mm} mm: "
                f"{found:.1f} km/h; loaded it goes slower.",
                (
                    ("Turns of the wheel per volt", f"{kv:g}"),
                    ("Pack", f"{volts:g} V"),
                    ("Roll-out", f"{mm} mm"),
                ),
                unit="km/h",
            )
        amps = rng.choice((10, 15, 20, 30))
        found = torque_per_a(kv) * amps
        return Question(
            "How much torque does the wheel get from so many amps in the phases?",
            "number",
            (f"{found:.6g}",),
            f"Kt = 60 / (2π × {kv:g}) = {torque_per_a(kv):.2f} N·m an ampere; "
            f"times {amps} A: {found:.1f} N·m.",
            (("Turns of the wheel per volt", f"{kv:g}"), ("Phase amps", f"{amps} A")),
            unit="N*m",
        )
