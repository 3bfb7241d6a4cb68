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

from brightcircuit.common.answers import SHOWN_AS
from brightcircuit.common.pages import with_words_for
from brightcircuit.shop.models import Person
from brightcircuit.shop.people import is_empty, one_shop
from brightcore.reader import Reader

Answer = Callable[[HttpRequest], HttpResponse]


def begun(answer: Answer) -> Answer:
    """Middleware: while nobody can sign in, every page leads to the first one of a new shop."""

    def after_first_run(request: HttpRequest) -> HttpResponse:
        start = reverse("start")
        if request.user.is_authenticated or request.path == start or not is_empty():
            return answer(request)
        return redirect(start)

    return after_first_run


def own_password(answer: Answer) -> Answer:
    """Middleware: who was given a password chooses one before anything else."""

    def with_own_password(request: HttpRequest) -> HttpResponse:
        person = request.user
        free = (reverse("password"), reverse("logout"))
        if isinstance(person, Person) and person.must_change and request.path not in free:
            return redirect("password")
        return answer(request)

    return with_own_password


FOR_LEARNERS = ("practice", "preferences", "password", "logout", "login")
"""Names of addresses, and beginnings of them, that a learner may open."""


def only_practice(answer: Answer) -> Answer:
    """Middleware: a learner practises, and sees nothing of the shop's bikes, jobs and customers."""

    def within_practice(request: HttpRequest) -> HttpResponse:
        person = request.user
        if not (isinstance(person, Person) and person.is_learner):
            return answer(request)
        try:
            name = resolve(request.path_info).url_name or ""
        except Resolver404:
            return answer(request)
        if name.partition("-")[0] in FOR_LEARNERS:
            return answer(request)
        if request.method == "GET" and name == "bench":
            return redirect("practice")
        raise PermissionDenied("A learner practises only: ask a shop lead for more.")

    return within_practice


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


def own_words(answer: Answer) -> Answer:
    """Middleware: quantities on pages are in the units of who reads them; what was typed stays as
    typed."""

    def in_own_units(request: HttpRequest) -> HttpResponse:
        found = answer(request)
        person = getattr(request, "user", None)
        if not isinstance(person, Person):
            return found
        reader = Reader(person.units, person.decimal)
        kind = found.get("Content-Type", "").partition(";")[0]
        if reader.is_plain or kind not in SHOWN_AS[:1] or found.streaming:
            return found
        found.content = with_words_for(reader, found.content.decode(found.charset))
        return found

    return in_own_units
