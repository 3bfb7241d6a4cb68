"""What feeds a wire on the healthy bike, by the roles and feeds of the parts on it."""

from brightcore.analysis.bike import Analysis, Net, Place
from brightcore.bike.model import Bike
from brightcore.bike.roles import named
from brightcore.kinds import REGISTRY
from brightcore.kinds.select import packs

PACK_PLUS = named(polarity="plus", level="pack", gives=True)
"""Roles on whose wire pack volts stand."""


def full_pack_v(bike: Bike) -> float:
    """Return the volts of the fullest pack when full, 0 where there is none."""
    return max((pack.spec.full_v() for pack in packs(bike)), default=0.0)


def place_v(case: Analysis, place: Place) -> float:
    """Return the volts that a pin gives, 0 where it gives none."""
    for feed in REGISTRY[place.part.kind].feeds(place.part):
        if feed.role == place.pin.role:
            return feed.volt
    return full_pack_v(case.bike) if place.pin.role in PACK_PLUS else 0.0


def given_v(case: Analysis, net: Net) -> float:
    """Return the highest volts that feed a net, 0 where nothing does."""
    return max((place_v(case, place) for place in net), default=0.0)
