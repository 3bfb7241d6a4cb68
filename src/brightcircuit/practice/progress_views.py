"""How learners are doing: one's own page, and the shop lead's of all; homework."""

from datetime import date

from django import forms
from django.contrib import messages
from django.core.exceptions import PermissionDenied, ValidationError
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone

from brightcircuit.common.actor import actor
from brightcircuit.common.posted import Act, Posted, Unfilled, act_on, status_of
from brightcircuit.practice import queries, services
from brightcircuit.practice.models import Homework
from brightcircuit.shop.models import Person
from brightcore.drawing.gauges import picture_svg
from brightcore.practice.drills import DRILLS
from brightcore.setting.contract import Curve

LEAST_CHARTED = 2


class HomeworkForm(forms.Form):
    """Cases by code, drills by topic, for whom, until when."""

    title = forms.CharField(max_length=120, label="Name", required=False)
    codes = forms.CharField(
        required=False,
        label="Cases, by code",
        help_text="one a line, such as graded.03 or hub-conversion.pack.4F7K2M",
        widget=forms.Textarea(attrs={"rows": 3}),
    )
    topics = forms.MultipleChoiceField(
        choices=[(drill.key, drill.title) for drill in DRILLS],
        required=False,
        label="Drills",
        widget=forms.CheckboxSelectMultiple,
    )
    due = forms.DateField(label="Until", widget=forms.DateInput(attrs={"type": "date"}))
    people = forms.ModelMultipleChoiceField(
        Person.objects.none(), required=False, label="For", widget=forms.CheckboxSelectMultiple
    )

    def __init__(self, *args: object, **kwargs: object) -> None:
        super().__init__(*args, **kwargs)  # type: ignore[arg-type]
        people = self.fields["people"]
        assert isinstance(people, forms.ModelMultipleChoiceField)
        people.queryset = Person.objects.filter(is_active=True).order_by("username")


def progress_page(request: HttpRequest) -> HttpResponse:
    """Show one's own progress; a shop lead may look at somebody's by name."""
    person = actor(request)
    asked = request.GET.get("of", "")
    if asked and asked != person.username:
        if not person.is_lead:
            raise PermissionDenied("Only a shop lead sees how others are doing.")
        person = get_object_or_404(Person, username=asked)
    rounds = [row for row in queries.rounds_of(person) if row.ended]
    context = {
        "who": person,
        "own": person == request.user,
        "told": queries.progress_of(person),
        "topics": queries.topics_of(person, timezone.localdate()),
        "rounds": rounds,
        "charts": _charts([row.debrief for row in reversed(rounds) if row.debrief]),
    }
    return render(request, "practice/progress.html", context)


def _charts(told: list[dict[str, float]]) -> list[str]:
    """Return minutes and wrong parts over the cases as drawings, none for too few."""
    if len(told) < LEAST_CHARTED:
        return []
    minutes = tuple((float(n), float(row["minutes"])) for n, row in enumerate(told, 1))
    wasted = tuple((float(n), float(row["wasted"])) for n, row in enumerate(told, 1))
    return [
        picture_svg(Curve("Minutes a case", "min", minutes, (), "cases")),
        picture_svg(Curve("Parts bought for nothing", "", wasted, (), "cases")),
    ]


def _remove(posted: Posted, form: HomeworkForm) -> str:
    row = get_object_or_404(Homework, pk=posted.text("row"))
    services.remove_homework(actor=posted.who, row=row)
    return "Removed. What was done of it stays."


def _give(posted: Posted, form: HomeworkForm) -> str:
    if not form.is_valid() or not _given(posted.who, form):
        raise Unfilled
    return "Given."


HOMEWORK_ACTS: dict[str, Act[HomeworkForm]] = {"remove": _remove, "give": _give}


def learners_page(request: HttpRequest) -> HttpResponse:
    """Show how all learners are doing, for a shop lead, and give homework."""
    who = actor(request)
    if not who.is_lead:
        raise PermissionDenied("Only a shop lead sees how others are doing.")
    form = HomeworkForm(request.POST if request.POST.get("do") == "give" else None)
    if request.method == "POST":
        posted = Posted(request)
        try:
            said = act_on(HOMEWORK_ACTS, posted.text("do"), posted, form)
            messages.success(request, said)
            return redirect("practice-learners")
        except Unfilled:
            pass  # what is wrong stands at the fields
    today = timezone.localdate()
    context = {
        "rows": [queries.progress_of(person) for person in queries.learners()],
        "homework": [(row, _done_by(row, today)) for row in queries.homework_given()],
        "form": form,
    }
    return render(request, "practice/learners.html", context, status=status_of(form.errors))


def _given(who: Person, form: HomeworkForm) -> bool:
    """Give the homework of a form; its errors are put at its fields."""
    data = form.cleaned_data
    try:
        services.give_homework(
            actor=who,
            title=data["title"],
            codes=data["codes"].split(),
            topics=data["topics"],
            due=data["due"],
            people=list(data["people"]),
        )
    except ValidationError as error:
        form.add_error(None, error)
        return False
    return True


def _done_by(row: Homework, today: date) -> list[tuple[Person, int]]:
    """Return how many pieces everybody has left of some homework."""
    found = []
    for person in row.people.all():
        own = next((h for h in queries.homework_of(person, today) if h.row.pk == row.pk), None)
        found.append((person, own.left if own else 0))
    return found
