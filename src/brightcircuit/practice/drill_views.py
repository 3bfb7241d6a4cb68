"""Drills: due topics first, one question at a time."""

import secrets

from django.core.exceptions import ValidationError
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render
from django.utils import timezone

from brightcircuit.common.actor import actor
from brightcircuit.common.posted import status_of
from brightcircuit.common.shown import Context
from brightcircuit.practice.queries import topics_of
from brightcircuit.practice.services import answer, topic_question
from brightcore.practice.drills import Question

SEED_LETTERS = 5


def drills_page(request: HttpRequest) -> HttpResponse:
    """Show every topic, due ones first."""
    rows = topics_of(actor(request), timezone.localdate())
    context = {"rows": rows, "due": sum(row.due for row in rows)}
    return render(request, "practice/drills.html", context)


def drill_page(request: HttpRequest, topic: str) -> HttpResponse:
    """Ask a question of a topic; say whether the answer was right, and why."""
    person = actor(request)
    seed = (request.POST.get("seed") or request.GET.get("seed") or secrets.token_hex(SEED_LETTERS))[
        :20
    ]
    try:
        asked = topic_question(topic, seed)
    except ValidationError:
        raise Http404("There is no such drill.") from None
    context: Context = {"topic": topic, "seed": seed, "q": asked, "error": "", "said": []}
    if request.method == "POST":
        said = _said(request, asked)
        context["said"] = said
        try:
            context["right"] = answer(actor=person, topic=topic, seed=seed, said=said)
            context["done"] = True
        except ValidationError as error:
            context["error"] = error.messages[0]
    rows = topics_of(person, timezone.localdate())
    own = next(row for row in rows if row.key == topic)
    following = next((row for row in rows if row.due and row.key != topic), None)
    context |= {
        "title": own.title,
        "following": following,
        "given": dict(_places(asked, context["said"])),
    }
    return render(request, "practice/drill.html", context, status=status_of(context["error"]))


def _said(request: HttpRequest, asked: Question) -> list[str]:
    """Return the answer that was posted: for an order, the steps by the numbers they were given."""
    if asked.form != "order":
        return request.POST.getlist("answer")
    numbered = [(request.POST.get(f"n-{k}", ""), key) for k, (key, _) in enumerate(asked.choices)]
    numbers = [number for number, _ in numbered]
    if sorted(numbers) != [str(n) for n in range(1, len(numbered) + 1)]:
        return []
    return [key for _, key in sorted(numbered)]


def _places(asked: Question, said: list[str]) -> list[tuple[str, int]]:
    """Return the number that each step of an order was given."""
    if asked.form == "order":
        return [(key, n) for n, key in enumerate(said, 1)]
    return []
