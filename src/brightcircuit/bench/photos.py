"""Photos of a job: sent, added at a plug, a step or a finding, deleted."""

import uuid

from django.contrib import messages
from django.core.exceptions import ValidationError
from django.http import FileResponse, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect
from django.urls import reverse
from django.views.decorators.http import require_POST

from brightcircuit.common.actor import actor
from brightcircuit.common.posted import page_before
from brightcircuit.jobs.models import Job, Photo
from brightcircuit.jobs.photos import add_photo, delete_photo, photo_path
from brightcircuit.jobs.stale import changing


def photo(request: HttpRequest, job_uuid: uuid.UUID, photo_uuid: uuid.UUID) -> FileResponse:
    """Send one photo of a job."""
    found = get_object_or_404(Photo, uuid=photo_uuid, job__uuid=job_uuid, gone=None)
    answer = FileResponse(photo_path(found).open("rb"), content_type="image/jpeg")
    answer["Cache-Control"] = "private, max-age=86400"
    return answer


@require_POST
def photo_add(request: HttpRequest, job_uuid: uuid.UUID) -> HttpResponse:
    """Take a photo of a place and go back to where it was taken."""
    job = changing(request, job_uuid, adds=True)
    try:
        upload = request.FILES.get("photo")
        if upload is None:
            raise ValidationError("Choose a picture.")
        caption, place = request.POST.get("caption", ""), request.POST.get("place", "")
        add_photo(actor=actor(request), job=job, upload=upload, caption=caption, place=place)
        messages.success(request, "Photo saved.")
    except ValidationError as error:
        messages.error(request, error.messages[0])
    return redirect(_back(request, job))


@require_POST
def photo_delete(request: HttpRequest, job_uuid: uuid.UUID, photo_uuid: uuid.UUID) -> HttpResponse:
    """Delete a photo for good."""
    job = changing(request, job_uuid, adds=True)
    found = get_object_or_404(Photo, uuid=photo_uuid, job=job)
    try:
        delete_photo(actor=actor(request), job=job, photo=found)
        messages.success(request, "Photo deleted; the log says so.")
    except ValidationError as error:
        messages.error(request, error.messages[0])
    return redirect(_back(request, job))


def _back(request: HttpRequest, job: Job) -> str:
    """Return the page that the photo was taken on, where it is one of ours; else what was found."""
    return page_before(request, reverse("arrive-found", args=(job.uuid,)))
