"""Requests that are too large are refused by their length, before anything of them is read."""

from collections.abc import Callable

from django.conf import settings
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render

from brightcircuit.common.numbers import whole_number

ENDLESS = 10**12
"""What a length that is no number is taken for."""

Answer = Callable[[HttpRequest], HttpResponse]


def limit_bodies(answer: Answer) -> Answer:
    """Middleware: refuse bodies over the limit with 413, for those not signed in from a much lower
    one on."""

    def limited(request: HttpRequest) -> HttpResponse:
        told = request.META.get("CONTENT_LENGTH") or "0"
        length = whole_number(told, ENDLESS)
        signed_in = (
            settings.SESSION_COOKIE_NAME in request.COOKIES and request.user.is_authenticated
        )
        if signed_in:
            most = settings.MOST_BODY
        else:
            most = settings.MOST_BODY_UNKNOWN
        if length > most:
            return render(request, "413.html", {"most": f"{most / 1e6:g}"}, status=413)
        return answer(request)

    return limited
