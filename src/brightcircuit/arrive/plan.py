"""Purpose and plan of a job: what it is for, for when, who has it, what it waits for, what it has
changed."""

import uuid

from django import forms
from django.core.exceptions import ValidationError
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render

from brightcircuit.common.actor import actor
from brightcircuit.common.posted import status_of
from brightcircuit.jobs.changed import changes_of, planned_of
from brightcircuit.jobs.descriptions import say_what_edits_are
from brightcircuit.jobs.services import Planned, plan_job
from brightcircuit.jobs.stale import changing
from brightcircuit.shop.models import Person
from brightcircuit.shop.people import workers
from brightcircuit.stations.frame import job_frame
from brightcircuit.stations.whats_open import needed_on
from brightcore.procedure.purpose import PURPOSES, WAITS


class PlanForm(forms.Form):
    """What is said of a job beside the work itself."""

    purposes = forms.MultipleChoiceField(
        choices=[(purpose.key, f"{purpose.title}: {purpose.words}") for purpose in PURPOSES],
        required=False,
        label="What it is for",
        widget=forms.CheckboxSelectMultiple,
    )
    promised = forms.DateField(
        required=False, label="Promised for", widget=forms.DateInput(attrs={"type": "date"})
    )
    worker = forms.ModelChoiceField(Person.objects.none(), required=False, label="In whose hands")
    waiting = forms.ChoiceField(
        choices=[("", "nothing"), *WAITS.items()], required=False, label="Waits for"
    )
    place = forms.CharField(
        max_length=80, required=False, label="Now at", help_text="stand, shelf, hook"
    )
    decided = forms.CharField(
        max_length=1000,
        required=False,
        label="What the customer decided",
        widget=forms.Textarea(attrs={"rows": 2}),
    )

    def __init__(self, *args: object, **kwargs: object) -> None:
        super().__init__(*args, **kwargs)  # type: ignore[arg-type]
        people = self.fields["worker"]
        assert isinstance(people, forms.ModelChoiceField)
        people.queryset = workers()


def plan_page(request: HttpRequest, job_uuid: uuid.UUID) -> HttpResponse:
    """Show and take purpose and plan; show what the job has changed."""
    job = changing(request, job_uuid)
    said = {
        "purposes": job.purposes,
        "promised": job.promised,
        "worker": job.worker_id,
        "waiting": job.waiting,
        "place": job.place,
        "decided": job.decided,
    }
    if request.method == "POST" and request.POST.get("do") == "edits":
        say_what_edits_are(actor=actor(request), job=job, plans=request.POST.get("plans") == "1")
        return redirect("arrive-plan", job.uuid)
    form = PlanForm(request.POST if request.method == "POST" else None, initial=said)
    if request.method == "POST" and form.is_valid():
        try:
            plan_job(actor=actor(request), job=job, planned=Planned(**form.cleaned_data))
            return redirect("arrive-plan", job.uuid)
        except ValidationError as error:
            form.add_error(None, error)
    context = {
        "form": form,
        "changes": changes_of(job),
        "planned": planned_of(job),
        "needed": [name.title() for name in needed_on(job)],
        "known": job.arrived is not None,
    }
    page = {**job_frame(job, "arrive"), **context}
    return render(request, "arrive/plan.html", page, status=status_of(form.errors))
