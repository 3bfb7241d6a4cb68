"""Which pins stand at the pack's volts once a pack is connected: what must not be left free."""

from brightcore.analysis.bike import analysis_of
from brightcore.bike.model import Bike


def live_pins(bike: Bike) -> frozenset[str]:
    """Return the pins (`part.port.pin`) that share a wire with the plus of a pack on the bike."""
    found: set[str] = set()
    for wire in analysis_of(bike).wires:
        if any(place.pin.role == "pack_plus" for place in wire):
            found |= {place.id for place in wire}
    return frozenset(found)
