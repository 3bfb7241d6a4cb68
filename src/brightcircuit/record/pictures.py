"""Pictures of a job for its sheets: by address on a page, as part of the file on paper."""

import io
from dataclasses import dataclass

from django.urls import reverse
from PIL import Image

from brightcircuit.engines.paper import picture
from brightcircuit.jobs.models import Job, Photo
from brightcircuit.jobs.photos import photo_path

PAPER_PX = 700
"""Long side of a picture on paper."""


@dataclass(frozen=True, slots=True)
class Picture:
    """One picture: where its content comes from, and what it shows."""

    source: str
    caption: str


def pictures_of(job: Job, paper: bool) -> list[Picture]:
    """Return the pictures of a job; one whose file is missing is left out on paper."""
    found = []
    for photo in job.photos:
        if paper:
            source = _on_paper(photo)
        else:
            source = reverse("photo", args=(job.uuid, photo.uuid))
        if source:
            found.append(Picture(source, photo.caption))
    return found


def _on_paper(photo: Photo) -> str:
    try:
        with Image.open(photo_path(photo)) as opened:
            opened.thumbnail((PAPER_PX, PAPER_PX))
            out = io.BytesIO()
            opened.save(out, "JPEG", quality=80)
    except OSError:
        return ""
    return picture(out.getvalue(), "jpeg")
