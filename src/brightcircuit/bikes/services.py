"""Changes to bikes."""

import json
import uuid as uuids
from collections.abc import Callable
from dataclasses import dataclass, replace

from django.core.exceptions import ValidationError
from django.db import transaction

from brightcircuit.bikes.drawings import bare_small
from brightcircuit.bikes.models import Bike, Revision, RiderContact
from brightcircuit.bikes.translate import circuit_of, document_hash, parse_document
from brightcircuit.common.permissions import require_active
from brightcircuit.shop.models import Person
from brightcore.bike.model import Bike as CoreBike
from brightcore.describing.edit import numbered_apart
from brightcore.describing.things import with_fresh_ids
from brightcore.errors import BrightError, FormatError, Problem
from brightcore.formats.bike_file import load_bike
from brightcore.formats.bike_list import read_bike_list
from brightcore.formats.bike_writing import dump_bike


@dataclass(frozen=True, slots=True)
class Imported:
    """What an import did: `new`, `here` (same content) or `copy` (same UUID, other content)."""

    revision: Revision
    outcome: str


def read_bike_text(text: str | bytes) -> CoreBike:
    """Return the bike in a file, proven to make a circuit; raises FormatError."""
    if isinstance(text, str):
        bike = parse_document(text)
    else:
        bike = load_bike(text)
    try:
        circuit_of(bike)
    except BrightError as error:
        raise FormatError((Problem("$", str(error)),)) from None
    return bike


def import_bike(*, actor: Person, text: str | bytes) -> Imported:
    """Take a bike file in. A known UUID with other content becomes a copy, nothing is
    overwritten."""
    require_active(actor)
    return store_bike(actor=actor, bike=numbered_apart(read_bike_text(text)))


@transaction.atomic
def store_bike(*, actor: Person, bike: CoreBike) -> Imported:
    """Store a core bike, as a new bike, the one that is already here, or a copy.

    Raises FormatError where its file could not be read again.
    """
    require_active(actor)
    text = dump_bike(bike)
    read_bike_text(text)
    same = Revision.objects.filter(sha256=document_hash(text)).select_related("bike").first()
    if same:
        return Imported(same, "here")
    outcome, origin = "new", None
    try:
        of_old = Bike.objects.filter(uuid=uuids.UUID(bike.uuid)).first()
        known = of_old is not None
    except ValueError:
        known, of_old = True, None
    if known:
        if of_old is not None:
            origin = of_old.origin or of_old.uuid
        outcome = "copy"
        info = replace(bike.info, label=f"{bike.info.label} (copy)"[:120])
        bike = replace(bike, uuid=str(uuids.uuid4()), info=info)
        text = dump_bike(bike)
    row = Bike.objects.create(uuid=bike.uuid, origin=origin, **_projection(bike))
    revision = Revision.objects.create(
        bike=row,
        number=1,
        document=text,
        sha256=document_hash(text),
        created_by=actor,
        what="Described",
    )
    return Imported(revision, outcome)


def _projection(bike: CoreBike) -> dict[str, str]:
    info = bike.info
    return {
        "label": info.label[:120],
        "description": info.description[:300],
        "frame_number": info.frame_number[:80],
        "small": bare_small(bike),
    }


@transaction.atomic
def add_listed(*, actor: Person, text: str | bytes) -> list[Bike]:
    """Take in a list of bikes, all or none; raises FormatError with every line that is wrong."""
    require_active(actor)
    if isinstance(text, bytes):
        try:
            text = text.decode("utf-8-sig")
        except UnicodeDecodeError:
            raise FormatError(
                (Problem("file", "is no UTF-8 text: save it as CSV in UTF-8"),)
            ) from None
    made = []
    for row in read_bike_list(text):
        bike = replace(row.bike, uuid=str(uuids.uuid4()))
        made.append(store_bike(actor=actor, bike=bike).revision.bike)
    return made


@transaction.atomic
def add_revision(
    *, actor: Person, bike: Bike, core: CoreBike, base: int, what: str, same_things: bool = False
) -> Revision:
    """Add a revision to a bike; earlier ones stay as they are.

    Whatever is new in it gets an id that this bike has never used, so that nothing said of a thing
    that is gone is taken for said of it; `same_things`: what comes is known from an earlier
    revision and is the same again. Raises ValidationError where somebody else has added one since
    `base`, FormatError where the description makes no circuit.
    """
    require_active(actor)
    newest = bike.revisions.select_for_update().order_by("-number")[0]
    if newest.number != base:
        raise ValidationError(
            f"Somebody has changed this bike meanwhile (revision {newest.number}). Look at it, "
            "then do it again."
        )
    if not same_things:
        core = with_fresh_ids(parse_document(newest.document), core, _ids_ever(bike))
    text = dump_bike(core)
    read_bike_text(text)
    if text == newest.document:
        return newest
    for guard in _guards:
        guard(actor, bike, core)
    Bike.objects.filter(pk=bike.pk).update(**_projection(core))
    return Revision.objects.create(
        bike=bike,
        number=base + 1,
        document=text,
        sha256=document_hash(text),
        created_by=actor,
        what=what[:300],
    )


def _ids_ever(bike: Bike) -> frozenset[str]:
    """Return every id of a part or connection that was ever given on a bike."""
    rows = bike.revisions.values_list("sha256", "document")
    return frozenset().union(*(_ids_in(key, text) for key, text in rows))


_ids_known: dict[str, frozenset[str]] = {}


def _ids_in(key: str, text: str) -> frozenset[str]:
    """Return the ids of parts and connections in one document; a revision never changes, so that it
    is read once."""
    if key not in _ids_known:
        raw = json.loads(text)
        _ids_known[key] = frozenset(row["id"] for row in (*raw["parts"], *raw["joins"]))
    return _ids_known[key]


Guard = Callable[[Person, Bike, CoreBike], None]
_guards: list[Guard] = []


def guard_edits(guard: Guard) -> None:
    """Let something refuse a revision by raising ValidationError."""
    if guard not in _guards:
        _guards.append(guard)


Followed = Callable[[Person, Revision], None]
_followers: list[Followed] = []


def follow_edits(follower: Followed) -> None:
    """Let something follow every edit that is made on the describing pages."""
    if follower not in _followers:
        _followers.append(follower)


Taker = Callable[[Person, Bike, str], None]
_takers: list[Taker] = []


def take_parts(taker: Taker) -> None:
    """Let something put a part off the shelf on the bill of a bike's open job."""
    if taker not in _takers:
        _takers.append(taker)


Note = Callable[[Bike], str]
_noters: list[Note] = []


def note_edits(noter: Note) -> None:
    """Let something say what editing a bike's description means just now."""
    if noter not in _noters:
        _noters.append(noter)


def edit_notes(bike: Bike) -> list[str]:
    """Return what editing a bike's description means just now, in words."""
    return [words for noter in _noters if (words := noter(bike))]


@transaction.atomic
def edit_bike(
    *,
    actor: Person,
    bike: Bike,
    core: CoreBike,
    base: int,
    what: str,
    same_things: bool = False,
    from_shelf: str = "",
) -> Revision:
    """Add a revision made on the describing pages; the open job of the bike follows it.

    `from_shelf`: id of the stock item that comes onto the bike, "" where none does. Raises
    ValidationError where it is not on the shelf, or nobody can tell whose bill it goes on.
    """
    made = add_revision(
        actor=actor, bike=bike, core=core, base=base, what=what, same_things=same_things
    )
    for follower in _followers:
        follower(actor, made)
    if from_shelf:
        for taker in _takers:
            taker(actor, bike, from_shelf)
    return made


@transaction.atomic
def keep_arrival(*, actor: Person, revision: Revision, core: CoreBike) -> Revision:
    """Store how a bike arrived in another shop as a revision before all others of the bike; returns
    it."""
    require_active(actor)
    text = dump_bike(replace(core, uuid=str(revision.bike.uuid)))
    return Revision.objects.create(
        bike=revision.bike,
        number=0,
        document=text,
        sha256=document_hash(text),
        created_by=actor,
        what="As it arrived in another shop",
    )


@transaction.atomic
def restore_revision(*, actor: Person, bike: Bike, number: int, base: int) -> Revision:
    """Make an earlier description of a bike the present one, as a new revision; nothing is lost.

    Raises ValidationError where there is no such revision, or somebody has added one since `base`.
    """
    old = bike.revisions.filter(number=number).first()
    if old is None:
        raise ValidationError(f"This bike has no revision {number}.")
    core = read_bike_text(old.document)
    what = f"As in revision {number} again"
    return edit_bike(actor=actor, bike=bike, core=core, base=base, what=what, same_things=True)


@transaction.atomic
def set_contact(*, actor: Person, bike: Bike, name: str, reach: str, note: str) -> None:
    """Keep how to reach the rider; all empty erases it."""
    require_active(actor)
    if not (name.strip() or reach.strip() or note.strip()):
        RiderContact.objects.filter(bike=bike).delete()
        return
    RiderContact.objects.update_or_create(
        bike=bike, defaults={"name": name.strip(), "reach": reach.strip(), "note": note.strip()}
    )
