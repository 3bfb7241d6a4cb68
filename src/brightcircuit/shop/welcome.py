"""What stands before every page: a shop without people is begun first, a given password is changed
first."""

from collections.abc import Callable
from zoneinfo import ZoneInfo, ZoneInfoNotFoundError

from django.conf import settings
from django.core.exceptions import PermissionDenied
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.urls import Resolver404, resolve, reverse
from django.utils import timezone

from brightcircuit.shop.models import Person
from brightcircuit.shop.people import is_empty, one_shop

Answer = Callable[[HttpRequest], HttpResponse]


def _begun(request: HttpRequest) -> HttpResponse | None:
    """While nobody can sign in, every page leads to the first one of a new shop."""
    start = reverse("start")
    if request.user.is_authenticated or request.path == start or not is_empty():
        return None
    return redirect(start)


def _own_password(request: HttpRequest) -> HttpResponse | None:
    """Who was given a password chooses one before anything else."""
    person = request.user
    free = (reverse("password"), reverse("logout"))
    if isinstance(person, Person) and person.must_change and request.path not in free:
        return redirect("password")
    return None


FOR_LEARNERS = ("practice", "preferences", "password", "logout", "login")
"""Names of addresses, and beginnings of them, that a learner may open."""


def _only_practice(request: HttpRequest) -> HttpResponse | None:
    """A learner practises, and sees nothing of the shop's bikes, jobs and customers; raises
    PermissionDenied."""
    person = request.user
    if not (isinstance(person, Person) and person.is_learner):
        return None
    try:
        name = resolve(request.path_info).url_name or ""
    except Resolver404:
        return None
    if name.partition("-")[0] in FOR_LEARNERS:
        return None
    if request.method == "GET" and name == "bench":
        return redirect("practice")
    raise PermissionDenied("A learner practises only: ask a shop lead for more.")


ENTRANCE: tuple[Callable[[HttpRequest], HttpResponse | None], ...] = (
    _begun,
    _own_password,
    _only_practice,
)
"""What is asked before a page, in this order: nobody has a password before the shop has begun."""


def entrance(answer: Answer) -> Answer:
    """Middleware: the first thing of `ENTRANCE` that leads elsewhere does so."""

    def through(request: HttpRequest) -> HttpResponse:
        for ask in ENTRANCE:
            elsewhere = ask(request)
            if elsewhere is not None:
                return elsewhere
        return answer(request)

    return through


def shop_time(answer: Answer) -> Answer:
    """Middleware: times are those of the shop."""

    def in_time_zone(request: HttpRequest) -> HttpResponse:
        with one_shop() as shop:
            try:
                zone = ZoneInfo(shop.time_zone or settings.TIME_ZONE)
            except ZoneInfoNotFoundError:
                return answer(request)
            with timezone.override(zone):
                return answer(request)

    return in_time_zone
