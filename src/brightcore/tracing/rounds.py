"""What stands of the evidence of one round in the next, after a repair whose proof failed."""

from brightcore.bike.model import Bike
from brightcore.tracing.evidence import Evidence

LASTING = ("past", "tried", "ask")
"""Kinds of evidence that no repair changes."""


def outlives(item: Evidence) -> bool:
    """Return whether evidence stands whatever is repaired: what was told, found at arrival, tried
    before."""
    return item.told or item.kind in LASTING


def untouched(bike: Bike, item: Evidence, repair_id: str) -> bool:
    """Return whether a reading is of nothing that a repair has touched; looks are made again."""
    if not (item.red and item.black):
        return False
    owner = repair_id.split(":")[1] if ":" in repair_id else ""
    sides = set()
    for join in bike.joins:
        if join.id == owner:
            for part, port in join.sides():
                sides.add(f"{part}.{port}")
    ends = (item.red, item.black)
    return not any(end.split(".")[0] == owner or end.rpartition(".")[0] in sides for end in ends)


def stands_on(bike: Bike, item: Evidence, repair_id: str, keep: bool) -> bool:
    """Return whether evidence stands in the next round; `keep`: readings that were not touched
    do."""
    return outlives(item) or (keep and untouched(bike, item, repair_id))
