"""The people of the shop: the first one, new ones, roles, passwords. Only a shop lead changes
others."""

from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from contextvars import ContextVar
from datetime import date

from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import PermissionDenied, ValidationError
from django.db import transaction
from django.db.models import QuerySet

from brightcircuit.common.permissions import require_active, require_lead, require_signed_in
from brightcircuit.shop.models import Person, Role, Shop

LAST_LEAD = "The shop needs one active shop lead: make somebody else shop lead first."


def is_empty() -> bool:
    """Return whether nobody can sign in yet."""
    return not Person.objects.exists()


def workers() -> QuerySet[Person]:
    """Return who may have a job in hand: people who sign in and do not only practise."""
    return Person.objects.filter(is_active=True).exclude(role=Role.LEARNER).order_by("username")


@transaction.atomic
def make_first_lead(*, name: str, password: str) -> Person:
    """Make the first shop lead, once, while there is nobody at all.

    Raises PermissionDenied where there is somebody, ValidationError (by field) for a name or
    password.
    """
    if not is_empty():
        raise PermissionDenied("There is a shop lead already: sign in.")
    return _create(name, password, Role.LEAD)


@transaction.atomic
def add_person(*, actor: Person, name: str, password: str, role: str) -> Person:
    """Add a person with a password to begin with, which they change when they first sign in."""
    require_lead(actor)
    made = _create(name, password, role)
    made.must_change = True
    made.save(update_fields=["must_change"])
    return made


def _create(name: str, password: str, role: str) -> Person:
    name = " ".join(name.split())
    if not name:
        raise ValidationError({"name": "Give a name to sign in with."})
    if Person.objects.filter(username__iexact=name).exists():
        raise ValidationError({"name": f"There is a person of the name {name!r} already."})
    if role not in Role.values:
        raise ValidationError({"role": "Choose a role."})
    person = Person(username=name, role=role, units=the_shop().units)
    try:
        person.clean_fields(exclude=["password"])
    except ValidationError as error:
        raise ValidationError({"name": error.messages}) from None
    _check_password(password, person)
    person.set_password(password)
    person.save()
    return person


def _check_password(password: str, person: Person) -> None:
    try:
        validate_password(password, person)
    except ValidationError as error:
        raise ValidationError({"password": error.messages}) from None


@transaction.atomic
def set_role(*, actor: Person, person: Person, role: str) -> None:
    """Make a person technician or shop lead; the last shop lead stays one."""
    require_lead(actor)
    if role not in Role.values:
        raise ValidationError("Choose a role.")
    if role != Role.LEAD:
        _require_another_lead(person)
    person.role = role
    person.save(update_fields=["role"])


@transaction.atomic
def set_active(*, actor: Person, person: Person, active: bool) -> None:
    """Let a person sign in, or no more; what they did stays under their name."""
    require_lead(actor)
    if not active:
        _require_another_lead(person)
    person.is_active = active
    person.save(update_fields=["is_active"])


def _require_another_lead(person: Person) -> None:
    leads = Person.objects.filter(role=Role.LEAD, is_active=True).exclude(pk=person.pk)
    if person.is_lead and person.is_active and not leads.exists():
        raise ValidationError(LAST_LEAD)


@transaction.atomic
def reset_password(*, actor: Person, person: Person, password: str) -> None:
    """Give a person a new password; they are signed out everywhere and change it when they sign
    in."""
    require_lead(actor)
    _check_password(password, person)
    person.set_password(password)
    person.must_change = person.pk != actor.pk
    person.save(update_fields=["password", "must_change"])


@transaction.atomic
def change_password(*, actor: Person, old: str, password: str) -> None:
    """Change one's own password, a learner's too; raises ValidationError by field."""
    require_signed_in(actor)
    if not actor.check_password(old):
        raise ValidationError({"old": "That is not the present password."})
    _check_password(password, actor)
    actor.set_password(password)
    actor.must_change = False
    actor.save(update_fields=["password", "must_change"])


@transaction.atomic
def set_away(*, actor: Person, person: Person, until: date | None) -> None:
    """Say until when somebody is not in the shop (None: here); one's own, or anybody's for a shop
    lead."""
    require_active(actor)
    if person.pk != actor.pk:
        require_lead(actor)
    person.away_until = until
    person.save(update_fields=["away_until"])


_known: ContextVar[Shop | None] = ContextVar("the shop of this request", default=None)


@contextmanager
def one_shop() -> Iterator[Shop]:
    """Look the shop up once for all that is asked of it inside: a page asks a dozen times."""
    shop = _stored()
    token = _known.set(shop)
    try:
        yield shop
    finally:
        _known.reset(token)


def _stored() -> Shop:
    """Return the shop as it is stored, to be changed: what is refused must not show on a page."""
    return Shop.objects.first() or Shop()


def the_shop() -> Shop:
    """Return the shop, as yet unnamed where nobody has said anything."""
    return _known.get() or _stored()


@transaction.atomic
def set_choice(*, actor: Person, instrument: str, options: dict[str, str]) -> None:
    """Let an instrument of Set judge like this in every job that does not say otherwise."""
    require_lead(actor)
    shop = _stored()
    shop.set_choices = {**shop.set_choices, instrument: options}
    shop.save()
    _known.set(shop if _known.get() else None)


OF_THE_SHOP = (
    "name",
    "place",
    "time_zone",
    "units",
    "money",
    "rate",
    "tax_percent",
    "tax_name",
    "tax_within",
    "link_networks",
)
"""What is known of the shop."""


@transaction.atomic
def set_shop(*, actor: Person, values: Mapping[str, object]) -> Shop:
    """Store what is known of the shop, by the names of `OF_THE_SHOP`; what is not named stays."""
    require_lead(actor)
    shop = _stored()
    for name in OF_THE_SHOP:
        # Who fills in the whole form says of each whether it is empty.
        if name in values:
            setattr(shop, name, values[name])
    shop.full_clean(exclude=["id"])
    shop.save()
    _known.set(shop if _known.get() else None)
    return shop
