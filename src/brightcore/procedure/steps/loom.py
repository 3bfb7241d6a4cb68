"""What is left of an old loom, and what is looked at before anything is cut or mounted."""

from collections.abc import Sequence

from brightcore.procedure.steps.base import GRIPS, LABELS, OUT
from brightcore.procedure.work_order import WorkStep

MOST_NAMED = 6
"""Parts named in one step, at most."""


def checked(names: Sequence[str]) -> WorkStep:
    """Return the look at new parts before any is mounted: what was ordered, and what the labels say."""
    shown = ", ".join(names[:MOST_NAMED]) + (
        f" and {len(names) - MOST_NAMED} more" * (len(names) > MOST_NAMED)
    )
    return WorkStep(
        "checked",
        f"New parts are what was ordered, and their labels say what is described here: {shown}",
        (),
        "A wrong part is only found out once it is mounted.",
    )


def grips() -> WorkStep:
    """Return what comes before anything is clamped on the bar."""
    return WorkStep(
        GRIPS,
        "Grips off; order on the bar tried by hand before anything is clamped: what the thumb needs closest",
        OUT,
        "All of it slides off again for one part in the wrong place.",
        "Alcohol or hair spray to refit, no soap: a grip that turns is a fall.",
    )


def labels(left: Sequence[str]) -> WorkStep:
    """Return what comes before anything of the old loom is cut."""
    words = f"Photograph the old loom; both ends labelled before anything of {', '.join(left[:3])} is cut"
    return WorkStep(LABELS, words, OUT, "Nobody knows afterwards which end was which.")


def left_over(left: Sequence[str]) -> WorkStep:
    """Return what becomes of the loom of parts that were taken off."""
    words = f"What is left of {', '.join(left[:3])}: capped, tied where it cannot chafe"
    return WorkStep("left-over", words, (*OUT, LABELS), "An open plug shorts in the first rain.")


def brakes(before: Sequence[str]) -> WorkStep:
    """Return the proof by hand of brakes and gears that were moved on the bar."""
    return WorkStep(
        "brakes",
        "Brakes and gears adjusted again and proved by hand, both levers",
        tuple(before),
        "A brake that was moved is not a brake until it was tried.",
    )
