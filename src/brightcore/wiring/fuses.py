"""The fuses between a pack and what it feeds: its own, and those in holders on its plus wire."""

from brightcore.analysis.bike import Analysis
from brightcore.bike.model import Part
from brightcore.kinds.inline import FuseHolderSpec
from brightcore.kinds.pack import PackSpec


def holders(case: Analysis, pack: Part[PackSpec]) -> list[Part[FuseHolderSpec]]:
    """Return the fuse holders on a pack's plus wire."""
    beside = []
    for own in case.places_of(pack):
        if own.pin.role == "pack_plus":
            for place in case.net_of(own.id):
                beside.append(place.part.id)
    found: list[Part[FuseHolderSpec]] = []
    for part in case.bike.having(FuseHolderSpec):
        if part.id in beside:
            found.append(part)
    return found


def main_fuse_a(case: Analysis, pack: Part[PackSpec]) -> float:
    """Return the rating in A of the weakest fuse of a pack, 0 where it has none."""
    ratings = [pack.spec.fuse_a, *(holder.spec.fuse_a for holder in holders(case, pack))]
    return min((rating for rating in ratings if rating), default=0.0)
