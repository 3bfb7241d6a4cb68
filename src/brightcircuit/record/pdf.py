"""A sheet of a job as PDF."""

from django.contrib import messages
from django.core.exceptions import ValidationError
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.template.loader import render_to_string

from brightcircuit.common.shown import Context
from brightcircuit.engines.paper import laid_out
from brightcircuit.jobs.models import Job


def pdf_of(request: HttpRequest, job: Job, sheet: str, context: Context, name: str) -> HttpResponse:
    """Return a sheet as a PDF to download; where none can be made, Record says why."""
    bike = job.revision.bike
    page = {
        **context,
        "job": job,
        "bike": bike,
        "sheet": sheet,
        "heading": f"{bike}, {job}",
        "paper": True,
    }
    try:
        (made,) = laid_out([render_to_string("record/paper.html", page)])
    except ValidationError as error:
        messages.error(request, error.messages[0])
        return redirect("record", job.uuid)
    response = HttpResponse(made, content_type="application/pdf")
    response["Content-Disposition"] = f'attachment; filename="job-{job.number}-{name}.pdf"'
    return response
