"""What was found on a line goes into the description with one tap."""

import uuid

from django.contrib import messages
from django.core.exceptions import ValidationError
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.views.decorators.http import require_POST

from brightcircuit.common.actor import actor
from brightcircuit.jobs.stale import changing
from brightcircuit.trace.line_services import describe_on_line
from brightcore.errors import BrightError


@require_POST
def put_on(request: HttpRequest, job_uuid: uuid.UUID) -> HttpResponse:
    """Put a part of the kind that was tapped on the line, and go on; where it fits no plug, its
    connection is asked for."""
    job = changing(request, job_uuid)
    line, kind = request.POST.get("repair", ""), request.POST.get("kind", "")
    try:
        part, plug = describe_on_line(actor=actor(request), job=job, line=line, kind=kind)
    except (ValidationError, BrightError) as error:
        if isinstance(error, ValidationError):
            words = error.messages[0]
        else:
            words = str(error)
        messages.error(request, f"{words} Nothing was saved.")
        return redirect("trace", job.uuid)
    if plug:
        words = (
            f"Described: a usual {part}, taken as {plug}. Connected otherwise? Put it "
            "right on Wire."
        )
        messages.success(request, words)
        return redirect("trace", job.uuid)
    messages.warning(
        request, f"Described: {part}. It fits no plug of that line: say how it is connected."
    )
    return redirect("wire", job.uuid)
