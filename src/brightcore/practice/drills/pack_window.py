"""Read a pack against its window."""

import random

from brightcore.physics.cells import CHEMISTRIES
from brightcore.practice.drills.base import Drill, Question

SERIES = {"nickel": (7, 10, 13, 14, 16, 20), "lfp": (12, 15, 16)}
VERDICTS = (
    ("full", "full or nearly"),
    ("within", "within its window"),
    ("empty", "empty in use: charge before anything else"),
    ("open", "no number of cells fits: the BMS or a fuse is open"),
    ("over", "over full: not its charger, or not its label"),
)
NEAR_FULL = 0.03
"""Within this share under full counts as full or nearly."""


class PackWindow(Drill):
    """Volts at the socket: what do they say?"""

    key, title = "pack-window", "Read a pack against its window"

    def make(self, rng: random.Random) -> Question:
        name = rng.choice(tuple(SERIES))
        cells, count = CHEMISTRIES[name], rng.choice(SERIES[name])
        full, empty, trip = (count * v for v in (cells.full_v, cells.empty_v, cells.trip_v))
        verdict = rng.choice([key for key, _ in VERDICTS])
        low, high = {
            "full": (full * (1 - 0.8 * NEAR_FULL), full),
            "within": (empty * 1.02, full * (1 - 1.3 * NEAR_FULL)),
            "empty": (trip * 1.005, empty * 0.99),
            "open": (0.25 * trip, 0.6 * trip),
            "over": (full * 1.02, full * 1.08),
        }[verdict]
        volts = round(rng.uniform(low, high), 1)
        return Question(
            f"A pack of {count} {cells.title} cells in series, at rest, at its discharge socket:",
            "one",
            (verdict,),
            f"{count} cells: full {full:.1f} V, empty in use {empty:.1f} V, the BMS opens at "
            f"{trip:.1f} V. {volts:.1f} V is {dict(VERDICTS)[verdict]}.",
            (("Read", f"{volts:.1f} V"),),
            VERDICTS,
        )
