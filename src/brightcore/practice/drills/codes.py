"""P-codes: why is the throttle dead?"""

import random
from functools import lru_cache

from brightcore.describing.patterns import make_pattern
from brightcore.formats.profile_file import profile_named
from brightcore.kinds.select import displays
from brightcore.practice.drills.base import Drill, Question
from brightcore.programming.case import Aim
from brightcore.programming.checks import check_values
from brightcore.programming.profile import Parameter

PROFILE = "three-button-display"
CULPRITS = {
    "start_level": "begins at level zero: on many the throttle is dead there",
    "speed_limit_kmh": "limits so low that the help is gone before it is felt",
    "low_cutoff_v": "cuts out above what the pack has",
}
SHOWN = 6


@lru_cache(maxsize=1)
def _display() -> str:
    return displays(make_pattern("hub-conversion", "hub-conversion"))[0].id


class DeadThrottle(Drill):
    """One value of a menu makes the bike seem dead: which code?"""

    key, title = "codes", "P-codes and a dead throttle"

    def make(self, rng: random.Random) -> Question:
        items = {item.role: item for item in profile_named(PROFILE).parameters}
        role = rng.choice([name for name in CULPRITS if name in items])
        culprit = items[role]
        bad = {"start_level": 0.0, "speed_limit_kmh": culprit.low, "low_cutoff_v": culprit.high}[
            role
        ]
        others = [item for item in items.values() if item.role not in CULPRITS]
        shown = sorted([culprit, *rng.sample(others, SHOWN - 1)], key=lambda item: item.code)
        values = {item.code: item.default for item in shown} | {culprit.code: culprit.nearest(bad)}
        found = _finding(role, values[culprit.code], culprit)
        return Question(
            (
                "Pack 48 V, everything right and nothing turns. The display's menu stands like "
                "this. Which code?"
            ),
            "one",
            (culprit.code,),
            f"{culprit.code}, {culprit.name.lower()}: it {CULPRITS[role]}. {found}".strip(),
            tuple((item.code, item.words(values[item.code])) for item in shown),
            tuple((item.code, item.code) for item in shown),
        )


def _finding(role: str, value: float, item: Parameter) -> str:
    """Return what the checks across devices say of that value, "" where nothing."""
    bike = make_pattern("hub-conversion", "hub-conversion")
    found = check_values(bike, {(_display(), role): item.to_role(value)}, (), Aim())
    if found:
        return found[0].change
    return ""
