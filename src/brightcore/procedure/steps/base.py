"""What a family of mechanical steps is: a function from a part that is fitted to the steps it asks for."""

from collections.abc import Callable, Iterator

from brightcore.bike.model import Part
from brightcore.procedure.work_order import WorkStep

Steps = Iterator[WorkStep]
Family = Callable[[Part], Steps]

OUT = ("pack-out",)
"""What stands before every mechanical step: the pack is out."""

GRIPS, LABELS = "grips", "labels"
"""Ids of steps that several families need."""
