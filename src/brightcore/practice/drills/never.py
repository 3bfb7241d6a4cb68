"""What must never be done (common practice; local codes come first)."""

import random

from brightcore.practice.drills.base import Drill, Question, lettered

NEVER = (
    ("Read ohms with the pack in", "It damages the meter, and the number lies."),
    ("Pull a plug under power to see what happens", "It arcs, and a slip puts pack volts on 5 V."),
    (
        "Put a bigger fuse in because the old one blew",
        "Only the fuse stands between a short and a fire.",
    ),
    (
        "Charge a swollen pack once more to test it",
        "It may burn: outdoors with it, nobody charges it.",
    ),
    ("Join two packs of 13 and 14 cells in parallel", "One charges the other past full."),
    ("Try the throttle with the wheel on the ground", "It leaps off the stand: wheel up first."),
    (
        "Lend a known-good controller before the phases are read",
        "The fault burns the lent one as well.",
    ),
    (
        "Solder on a pack's own two leads at once",
        "A slip is a short: one, insulate it, then the other.",
    ),
    (
        "Leave regeneration on with a full pack in frost",
        "The pack can take no more charge: cells plate and burn.",
    ),
    (
        "Run a hub motor once round the yard without its torque arm",
        "The axle turns and tears the cable.",
    ),
    (
        "Wake a pack that is run down too far with a stronger charger",
        "It may burn: to someone qualified for packs.",
    ),
    ("Take the cut-off for the brake", "Brakes must stop the bike without it."),
)
FINE = (
    "Take the pack out before any plug",
    "Discharge the capacitors and confirm under 5 V",
    "Label both ends before anything is cut",
    "Put the wheel up before a first touch of throttle",
    "Read a fuse with ohms once it is out",
    "Bridge a key line through a small fuse, both pins read first",
    "Turn a geared hub backwards to read its halls",
    "Prove both levers with the motor turning",
    "Slide the heat-shrink on before the joint",
    "Ask when it happens before anything is opened",
)
SHOWN = 4


class Never(Drill):
    """One of four must never be done."""

    key, title = "never", "What must never be done"

    def make(self, rng: random.Random) -> Question:
        wrong, why = rng.choice(NEVER)
        shown = [wrong, *rng.sample(FINE, SHOWN - 1)]
        rng.shuffle(shown)
        choices = lettered(shown)
        return Question(
            "Which of these must never be done?",
            "one",
            (choices[shown.index(wrong)][0],),
            f"{wrong}? Never. {why}",
            (),
            choices,
        )
