"""Codes that a display shows: what they mean is a table of each kind of display, which the shop
fills."""

from collections.abc import Mapping

from django.core.exceptions import ValidationError
from django.db import transaction
from django.utils import timezone

from brightcircuit.common.permissions import require_active
from brightcircuit.shop.models import Person
from brightcircuit.trace.models import ErrorCode
from brightcore.behaviour.vocabulary import OBSERVABLES
from brightcore.bike.model import Bike
from brightcore.kinds.select import displays

CODE = "code-error"
"""Name of the field of a card in which a code is typed."""

SEEN = "see-error"
"""Name of the field in which its meaning is chosen."""


def display_name(bike: Bike) -> str:
    """Return the name of the display whose codes are read on a bike, "" where there is none."""
    return next((part.name for part in displays(bike)), "")


def codes_of(display: str) -> dict[str, str]:
    """Return meaning by code of the displays of one name."""
    return dict(ErrorCode.objects.filter(display=display).values_list("code", "meaning"))


def plain(code: str) -> str:
    """Return a code as it is kept: capital letters, no spaces, no leading zeros.

    >>> plain(" e 07"), plain("21"), plain("0")
    ('E7', '21', '0')
    """
    text = "".join(code.upper().split())
    letters = text.rstrip("0123456789")
    return letters + (text[len(letters) :].lstrip("0") or text[len(letters) :][-1:])


def with_meaning(display: str, data: Mapping[str, str]) -> tuple[dict[str, str], str]:
    """Return what was posted with a typed code turned into its meaning, and what is wrong, "" if
    nothing."""
    found = dict(data.items())
    code = plain(found.get(CODE, ""))
    if not code or found.get(SEEN):
        return found, ""
    meaning = codes_of(display).get(code)
    if meaning is None:
        return (
            found,
            (
                f"Code {code} is not in the table of {display} yet: choose what its manual says "
                "it means."
            ),
        )
    found[SEEN] = meaning
    return found, ""


@transaction.atomic
def remember_code(*, actor: Person, display: str, code: str, meaning: str) -> None:
    """Store what a code of a display means; the last word counts. Raises ValidationError."""
    require_active(actor)
    kept = plain(code)
    if not kept or len(kept) > 12:
        raise ValidationError("Code: one to twelve letters and digits.")
    if meaning not in OBSERVABLES["error"].ids() or meaning == "none":
        raise ValidationError("Meaning: choose one of the list.")
    own = {"meaning": meaning, "at": timezone.now(), "by_name": str(actor)}
    ErrorCode.objects.update_or_create(display=display, code=kept, defaults=own)


@transaction.atomic
def forget_code(*, actor: Person, display: str, code: str) -> None:
    """Take a code out of the table of a display."""
    require_active(actor)
    ErrorCode.objects.filter(display=display, code=code).delete()
