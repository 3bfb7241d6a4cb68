"""What a page sends, read by name and type; and a table of the acts that it may ask for.

A view declares its acts once: the word that its form sends, and a function that reads its own
fields and calls one service. What no table names is refused in one place.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import TypeVar

from django.core.exceptions import ValidationError
from django.core.files.uploadedfile import UploadedFile
from django.http import HttpRequest
from django.utils.http import url_has_allowed_host_and_scheme

from brightcircuit.common.actor import actor
from brightcircuit.shop.models import Person

Place = TypeVar("Place")

NOTHING_TO_DO = "Nothing to do."


UNPROCESSABLE = 422
"""The status of a page that shows again what was typed, with what is wrong in it (RFC 9110)."""


def status_of(errors: object) -> int:
    """Return the status of a page: whether something that was typed has to be typed again.

    >>> status_of({"value": ["Type the reading."]}), status_of({})
    (422, 200)
    """
    if errors:
        return UNPROCESSABLE
    return 200


def as_typed(request: HttpRequest, errors: object) -> dict[str, str]:
    """Return what a form was filled with when it has to be shown again, and nothing otherwise."""
    if errors:
        return request.POST
    return {}


class Unfilled(Exception):
    """A form that was sent is not filled in as it must be; what is wrong stands at its fields.

    `errors` by field are for a form that does not keep them itself.
    """

    def __init__(self, errors: dict[str, str] | None = None) -> None:
        super().__init__()
        self.errors = errors or {}


@dataclass(frozen=True, slots=True)
class Posted:
    """The fields of a form as they were sent, and who sent them."""

    request: HttpRequest

    @property
    def who(self) -> Person:
        """Who is signed in."""
        return actor(self.request)

    def text(self, name: str, default: str = "") -> str:
        """Return a field as it was typed."""
        return str(self.request.POST.get(name, default))

    def has(self, name: str) -> bool:
        """Return whether a field was sent with something in it."""
        return bool(self.request.POST.get(name))

    def many(self, name: str) -> list[str]:
        """Return every value of a field: boxes that were ticked."""
        return self.request.POST.getlist(name)

    def all(self) -> dict[str, str]:
        """Return every field by its name."""
        return self.request.POST.dict()

    def number(self, name: str, what: str) -> float:
        """Return a field as a number, with a point or a comma; raises ValidationError that names
        it."""
        text = self.text(name)
        try:
            return float(text.replace(",", "."))
        except ValueError:
            raise ValidationError({name: [f"{text!r} is not {what}."]}) from None

    def file(self, name: str, ask: str) -> "UploadedFile[bytes]":
        """Return a file that was sent; raises ValidationError with what to choose."""
        upload = self.request.FILES.get(name)
        if upload is None:
            raise ValidationError({name: [ask]})
        return upload


def page_before(request: HttpRequest, otherwise: str) -> str:
    """Return the page that a form names as the one it stands on (`to`), where it is one of
    ours."""
    to = request.POST.get("to", "")
    ours = url_has_allowed_host_and_scheme(to, {request.get_host()}, request.is_secure())
    if to.startswith("/") and ours:
        return to
    return otherwise


Act = Callable[[Posted, Place], str]
"""Does one thing at a place (a job, an instrument on a job) and returns what to say, "" for
nothing."""


def act_on(acts: Mapping[str, Act[Place]], word: str, posted: Posted, place: Place) -> str:
    """Do the act that a form asks for; raises ValidationError for one that the page does not
    have."""
    act = acts.get(word)
    if act is None:
        raise ValidationError(NOTHING_TO_DO)
    return act(posted, place)
