"""Changes to bikes."""

import uuid as uuids
from dataclasses import dataclass, replace

from django.db import transaction

from brightcircuit.bikes.models import Bike, Revision
from brightcircuit.bikes.translate import document_hash
from brightcircuit.shop.models import Person
from brightcircuit.shop.services import require_active
from brightcore.bike.model import Bike as CoreBike
from brightcore.circuit.netlist import compile_circuit
from brightcore.errors import BrightError, FormatError, Problem
from brightcore.formats.bike_file import dump_bike, load_bike
from brightcore.kinds import REGISTRY


@dataclass(frozen=True, slots=True)
class Imported:
    """What an import did: `new`, `here` (same content) or `copy` (same UUID, other content)."""

    revision: Revision
    outcome: str


def read_bike_text(text: str | bytes) -> CoreBike:
    """Return the bike in a file, proven to make a circuit; raises FormatError."""
    bike = load_bike(text)
    try:
        compile_circuit(bike, REGISTRY)
    except BrightError as error:
        raise FormatError((Problem("$", str(error)),)) from None
    return bike


def import_bike(*, actor: Person, text: str | bytes) -> Imported:
    """Take a bike file in. A known UUID with other content becomes a copy, nothing is overwritten."""
    require_active(actor)
    return store_bike(actor=actor, bike=read_bike_text(text))


@transaction.atomic
def store_bike(*, actor: Person, bike: CoreBike) -> Imported:
    """Store a core bike, as a new bike, the one that is already here, or a copy."""
    require_active(actor)
    text = dump_bike(bike)
    same = Revision.objects.filter(sha256=document_hash(text)).select_related("bike").first()
    if same:
        return Imported(same, "here")
    outcome = "new"
    try:
        known = Bike.objects.filter(uuid=uuids.UUID(bike.uuid)).exists()
    except ValueError:
        known = True
    if known:
        outcome = "copy"
        info = replace(bike.info, label=f"{bike.info.label} (copy)"[:120])
        bike = CoreBike(str(uuids.uuid4()), info, bike.parts, bike.joins, bike.settings)
        text = dump_bike(bike)
    row = Bike.objects.create(uuid=bike.uuid, label=bike.info.label[:120], description=bike.info.description[:300])
    revision = Revision.objects.create(bike=row, number=1, document=text, sha256=document_hash(text), created_by=actor)
    return Imported(revision, outcome)
