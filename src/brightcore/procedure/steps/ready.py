"""Before anything is touched: what came is what was ordered, and nothing of the old is cut
unseen."""

from brightcore.procedure.step import ANY, WorkStep
from brightcore.procedure.steps.base import CHECKED, GRIPS, LABELS, Steps, named, sits_on_bar
from brightcore.procedure.work_case import WorkCase

MOST_NAMED = 6
"""Parts named in one step, at most."""


def ready(case: WorkCase) -> Steps:
    """Look at the new parts, label the old loom, bare the bar."""
    new = [part.name for part in case.fitted]
    if new:
        yield WorkStep(
            CHECKED,
            "New parts are what was ordered, and their labels say what is described here: "
            f"{named(new, MOST_NAMED)}",
            (),
            "A wrong part is only found out once it is mounted.",
            power=ANY,
        )
    if case.apart:
        names: dict[str, None] = {}
        for join in case.apart:
            names |= dict.fromkeys(part.name for part, _ in case.ends(join))
        yield WorkStep(
            LABELS,
            "Photograph the old loom; label both ends of what is disconnected: "
            f"{named(list(names), MOST_NAMED)}",
            (),
            "Nobody knows afterwards which end was which.",
        )
    if any(sits_on_bar(part) for part in (*case.fitted, *case.removed)):
        yield WorkStep(
            GRIPS,
            "Grips off; order on the bar tried by hand before anything is clamped: "
            "what the thumb needs closest",
            (),
            "All of it slides off again for one part in the wrong place.",
            "Alcohol or hair spray to refit, no soap: a grip that turns is a fall.",
        )
