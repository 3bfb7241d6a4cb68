"""Pages of Weigh."""

import uuid

from django.core.exceptions import ValidationError
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render

from brightcircuit.common.posted import Act, Posted, act_on, as_typed, status_of
from brightcircuit.jobs.models import Job
from brightcircuit.jobs.stale import changing
from brightcircuit.stations.frame import job_frame
from tests.apps.dummy.queries import weight_of
from tests.apps.dummy.services import weigh


def _weigh(posted: Posted, job: Job) -> str:
    weigh(actor=posted.who, job=job, kg=posted.number("kg", "a weight"))
    return ""


ACTS: dict[str, Act[Job]] = {"weigh": _weigh}


def page(request: HttpRequest, job_uuid: uuid.UUID) -> HttpResponse:
    """Show what the bike weighs, and weigh it."""
    job = changing(request, job_uuid)
    errors: dict[str, list[str]] = {}
    if request.method == "POST":
        posted = Posted(request)
        try:
            act_on(ACTS, posted.text("do"), posted, job)
            return redirect("dummy", job.uuid)
        except ValidationError as error:
            errors = error.message_dict
    context = {
        **job_frame(job, "dummy"),
        "weight": weight_of(job),
        "errors": errors,
        "typed": as_typed(request, errors),
    }
    return render(request, "dummy/weigh.html", context, status=status_of(errors))
