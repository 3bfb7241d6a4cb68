"""Two packs: may they be joined, and how?"""

import random

from brightcore.kinds.pack import PackSpec
from brightcore.matching.packs import equalise
from brightcore.practice.drills.base import Drill, Question

NEAR_V = 0.2
"""Packs this near to each other may be joined directly (common practice)."""

MARGIN = 1.5
"""A module is rated this much over the controller's current (common practice: 22 A gets 40 A)."""

ANSWERS = (
    ("direct", "directly in parallel, as they are"),
    ("module", "through this module only"),
    ("charge", "not yet: bring them to the same volts, or use a bigger module"),
    ("never", "never in parallel"),
)


class TwoPacks(Drill):
    """Same series, near volts, a module that is big enough."""

    key, title = "two-packs", "Two packs and a combiner"

    def make(self, rng: random.Random) -> Question:
        verdict = rng.choice([key for key, _ in ANSWERS])
        count = rng.choice((10, 13))
        amps = rng.choice((15, 18, 22, 25))
        cell = rng.uniform(3.6, 3.95)
        if verdict == "direct":
            apart = rng.uniform(0.02, 0.8 * NEAR_V)
        else:
            apart = rng.uniform(0.6, 3.0)
        if verdict == "never":
            other = count + rng.choice((1, 3))
        else:
            other = count
        module = {
            "direct": 0,
            "module": rng.choice((40, 50)),
            "charge": rng.choice((0, 20)),
            "never": 40,
        }
        rated = module[verdict]
        one = PackSpec(series_count=count, cell_v=cell)
        two = PackSpec(series_count=other, cell_v=cell - (0 if other != count else apart / count))
        flow = equalise(one, two)
        first, second = one.resting_v(), two.resting_v()
        between, flows = abs(first - second), f"{flow.current_a:.0f} A"
        why = {
            "direct": (
                f"{between:.2f} V apart, within {NEAR_V:g} V: at most {flows} flow for a moment"
            ),
            "module": f"{between:.1f} V apart: joined directly {flows} would flow; the module "
            "keeps them "
            f"apart and is rated {rated} A for {amps} A",
            "charge": f"{between:.1f} V apart: {flows} would flow, and "
            + ("there is no module" if not rated else f"{rated} A leaves no margin over {amps} A"),
            "never": f"{count} and {other} cells in series: one would charge the other past full",
        }[verdict]
        return Question(
            "May these two packs be joined in parallel?",
            "one",
            (verdict,),
            f"{why}. No regeneration through a combining module.",
            (
                ("Pack A", f"{count} in series, {first:.2f} V at rest"),
                ("Pack B", f"{other} in series, {second:.2f} V at rest"),
                ("Controller", f"{amps} A from the pack"),
                ("Combining module", f"{rated} A" if rated else "none"),
            ),
            ANSWERS,
        )
