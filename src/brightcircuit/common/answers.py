"""Answers that Django leaves bare get a page of the shop."""

from collections.abc import Callable

from django.http import HttpRequest, HttpResponse, HttpResponseNotAllowed
from django.shortcuts import render

Answer = Callable[[HttpRequest], HttpResponse]


def dressed(answer: Answer) -> Answer:
    """Middleware: a method that is not served gets a page, and still says which are."""

    def with_page(request: HttpRequest) -> HttpResponse:
        found = answer(request)
        if not isinstance(found, HttpResponseNotAllowed):
            return found
        page = render(request, "405.html", status=405)
        page["Allow"] = found["Allow"]
        return page

    return with_page
