"""Plans for tests: a bike with less on it, or with something of the library in a part's place."""

from brightcircuit.library.models import LibraryPart
from brightcircuit.library.translate import core_entry
from brightcore.bike.model import Bike
from brightcore.describing.edit import remove_part
from brightcore.describing.swap import swap_part
from brightcore.wiring.propose import accept, propose_joins


def without(bike: Bike, *parts: str) -> Bike:
    """Return a bike with some of its parts taken off."""
    for part in parts:
        bike = remove_part(bike, part).bike
    return bike


def exchanged(bike: Bike, part: str, slug: str) -> Bike:
    """Return a bike with a library part in a part's place, and what is then free connected as
    proposed."""
    e = core_entry(LibraryPart.objects.get(slug=slug))
    made = swap_part(bike, part, e.kind, e.name, e.spec, e.ports).bike
    return accept(made, propose_joins(made))
