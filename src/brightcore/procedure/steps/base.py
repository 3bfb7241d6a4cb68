"""What a family of steps is: a function from the work to the steps that it asks for."""

from collections.abc import Callable, Iterator, Sequence

from brightcore.bike.model import Part
from brightcore.kinds import REGISTRY
from brightcore.procedure.stands import FIT, REMOVE
from brightcore.procedure.step import WorkStep
from brightcore.procedure.work_case import WorkCase

Steps = Iterator[WorkStep]
Family = Callable[[WorkCase], Steps]

GRIPS, LABELS, CHECKED, POWER_UP, WHEEL_UP = "grips", "labels", "checked", "power-up", "wheel-up"
ROUTE, MOVE, PROVE, TIE, CAPS, LEFT_OVER = "route", "move", "prove", "tie", "caps", "left-over"
"""Ids of steps that several families need."""


def fit(part: Part) -> str:
    """Return the id of the step that fits a part."""
    return f"{FIT}:{part.id}"


def remove(part: Part) -> str:
    """Return the id of the step that takes a part off."""
    return f"{REMOVE}:{part.id}"


def sits_on_bar(part: Part) -> bool:
    """Return whether a part is clamped on the bar."""
    kind = REGISTRY[part.kind]
    return kind.place == "bar" and kind.sits == "bar"


def named(names: Sequence[str], most: int) -> str:
    """Return some names as a list in words; what is beyond the most that are named is counted."""
    more = len(names) - most
    listed = ", ".join(names[:most])
    if more > 0:
        return f"{listed} and {more} more"
    return listed


def in_place_of(case: WorkCase, part: Part) -> Part | None:
    """Return what was at the place of a part before it, None where nothing was."""
    return next((old for old in case.removed if old.id == part.replaces), None)


def replaced_by(case: WorkCase, part: Part) -> Part | None:
    """Return what comes in the place of a part that is taken off, None where nothing does."""
    return next((new for new in case.fitted if new.replaces == part.id), None)
