"""Packs that stand on each other: whose minus is whose plus, through any leads, and the volts that
gives."""

from collections.abc import Callable

from brightcore.analysis.bike import Analysis, analysis_of
from brightcore.bike.model import Bike, Part
from brightcore.kinds.pack import PackSpec
from brightcore.kinds.select import packs

Volts = Callable[[PackSpec], float]
"""What is taken of each pack: full, nominal or empty volts, or a count of cells."""


def below(case: Analysis) -> dict[str, Part[PackSpec]]:
    """Return for every pack the one on whose plus its minus stands, through leads and harnesses."""
    found: dict[str, Part[PackSpec]] = {}
    for pack in packs(case.bike):
        for own in case.places_of(pack, lambda role: role.name == "pack_minus"):
            under = set()
            for place in case.net_of(own.id):
                if place.pin.role == "pack_plus":
                    under.add(place.part.id)
            others = (part for part in packs(case.bike) if part.id in under - {pack.id})
            lower = next(others, None)
            if lower is not None:
                found[pack.id] = lower
    return found


def string_of(case: Analysis, pack: Part[PackSpec]) -> tuple[Part[PackSpec], ...]:
    """Return a pack and all that it stands on, top first; a ring is followed once."""
    under, found = below(case), [pack]
    while (lower := under.get(found[-1].id)) is not None and lower.id not in {p.id for p in found}:
        found.append(lower)
    return tuple(found)


def strings(bike: Bike) -> tuple[tuple[Part[PackSpec], ...], ...]:
    """Return the strings of a bike, each top first: packs that nothing stands on, with what they
    stand on."""
    case = analysis_of(bike)
    return case.remember("strings", lambda: _strings(case))


def _strings(case: Analysis) -> tuple[tuple[Part[PackSpec], ...], ...]:
    # A top is a pack that nothing stands on. In a ring there is none; the first pack then begins
    # it, so that a wrong wiring is still looked at.
    carrying = {pack.id for pack in below(case).values()}
    tops = [pack for pack in packs(case.bike) if pack.id not in carrying] or list(
        packs(case.bike)[:1]
    )
    return tuple(string_of(case, pack) for pack in tops)


def in_series(bike: Bike) -> bool:
    """Return whether packs of a bike stand in series anywhere."""
    return any(len(string) > 1 for string in strings(bike))


def top_v(case: Analysis, pack: Part[PackSpec], volts: Volts = PackSpec.full_v) -> float:
    """Return the volts at a pack's plus against the lowest minus of its string."""
    return sum(volts(one.spec) for one in string_of(case, pack))


def highest_v(bike: Bike, volts: Volts = PackSpec.full_v) -> float:
    """Return the volts of the highest string of a bike, 0 where there is no pack."""
    return max((sum(volts(one.spec) for one in string) for string in strings(bike)), default=0.0)


def lowest_v(bike: Bike, volts: Volts = PackSpec.empty_v) -> float:
    """Return the volts of the lowest string of a bike, 0 where there is no pack."""
    return min((sum(volts(one.spec) for one in string) for string in strings(bike)), default=0.0)
