"""Photos of a job: checked by content, scaled down, stripped of everything but the picture."""

import hashlib
import io
import os
import threading
import uuid
from pathlib import Path
from typing import Any

from django.conf import settings
from django.core.exceptions import ValidationError
from django.core.files.uploadedfile import UploadedFile
from django.db import transaction
from PIL import Image, ImageFile, ImageOps, UnidentifiedImageError

from brightcircuit.common.guard import require_open
from brightcircuit.jobs import log
from brightcircuit.jobs.clock import now
from brightcircuit.jobs.models import Job, Photo
from brightcircuit.shop.models import Person

MOST_BYTES = 12_000_000
MOST_PIXELS = 60_000_000
MOST_PIXELS_WHOLE = 20_000_000
MOST_PIXELS_WEBP = 12_000_000
MOST_PHOTOS = 24
LONG_SIDE = 1600
FORMATS = ("JPEG", "PNG", "WEBP")

_one_at_a_time = threading.Lock()


def media_folder() -> Path:
    """Return the folder of the photos."""
    return Path(settings.DATA) / "media"


def photo_path(photo: Photo) -> Path:
    """Return the file of a photo."""
    return media_folder() / f"{photo.uuid}.jpg"


def clean_picture(content: bytes) -> bytes:
    """Return the picture as a JPEG without metadata, upright, at most 1600 pixels long.

    Its header is looked at before it is opened, and one is opened at a time: together they would
    fill the memory. Raises ValidationError.
    """
    with _one_at_a_time:
        return _cleaned(content)


def _most_pixels(picture: ImageFile.ImageFile) -> int:
    """Return how many pixels may be opened of a kind of picture.

    A plain JPEG is read at a fraction of its size; everything else stands in the memory as a whole,
    WebP more than once.
    """
    if picture.format == "WEBP":
        return MOST_PIXELS_WEBP
    plain = picture.format == "JPEG" and "progressive" not in picture.info
    if plain:
        return MOST_PIXELS
    return MOST_PIXELS_WHOLE


def _cleaned(content: bytes) -> bytes:
    try:
        # The formats are named, so that no rare decoder is tried on what a stranger sends.
        with Image.open(io.BytesIO(content), formats=FORMATS) as opened:
            if opened.width * opened.height > _most_pixels(opened):
                raise ValidationError(
                    "That picture has too many pixels: take it smaller, or as JPEG."
                )
            picture: Image.Image = opened if opened.mode != "P" else opened.convert("RGB")
            picture.thumbnail((LONG_SIDE, LONG_SIDE))
            upright = ImageOps.exif_transpose(picture).convert("RGB")
            # Pasted into a fresh picture, so that place, camera and owner that phones write into a
            # file stay behind.
            plain = Image.new("RGB", upright.size)
            plain.paste(upright)
            out = io.BytesIO()
            plain.save(out, "JPEG", quality=85)
            return out.getvalue()
    except (
        UnidentifiedImageError,
        OSError,
        SyntaxError,
        ValueError,
        Image.DecompressionBombError,
    ) as error:
        raise ValidationError(
            "That is not a picture this shop can read: JPEG, PNG or WebP."
        ) from error


def _write_through(path: Path, content: bytes) -> None:
    """Write a file for its owner alone, down to the disk: its row comes after it and never
    before."""
    path.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
    try:
        with os.fdopen(os.open(path, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600), "wb") as out:
            out.write(content)
            out.flush()
            os.fsync(out.fileno())
    except OSError:
        path.unlink(missing_ok=True)
        raise


def add_photo(
    *, actor: Person, job: Job, upload: "UploadedFile[Any]", caption: str, place: str = ""
) -> Photo:
    """Keep a photo with a job. Raises ValidationError for what is no picture, too large, or one too
    many."""
    require_open(job, actor)
    if (upload.size or 0) > MOST_BYTES:
        raise ValidationError(
            f"The file is {(upload.size or 0) / 1e6:.0f} MB; up to {MOST_BYTES // 1_000_000} "
            "MB can be read."
        )
    if job.photos.count() >= MOST_PHOTOS:
        raise ValidationError(f"A job holds up to {MOST_PHOTOS} photos.")
    # File first, row second: a row without its file could not be shown, a file without its row is
    # tidied up.
    content = clean_picture(upload.read())
    name = uuid.uuid4()
    path = media_folder() / f"{name}.jpg"
    _write_through(path, content)
    with transaction.atomic():
        photo = Photo.objects.create(
            job=job,
            uuid=name,
            place=place[:160],
            caption=caption.strip()[:200],
            size=len(content),
            sha256=hashlib.sha256(content).hexdigest(),
            at=now(),
            by=actor,
            by_name=str(actor),
        )
        if place:
            where = f" at {place.replace(':', ' ', 1)}"
        else:
            where = ""
        log.write(job, actor, "photo", f"Photo saved{where}: {photo.caption or 'no caption'}")
    return photo


@transaction.atomic
def delete_photo(*, actor: Person, job: Job, photo: Photo) -> None:
    """Delete a picture for good; a line in the log says who did, and what it showed."""
    require_open(job, actor)
    if photo.gone:
        raise ValidationError("That picture was deleted already.")
    photo.gone = now()
    photo.save(update_fields=["gone"])
    log.write(job, actor, "photo", f"Photo deleted: {photo.caption or 'no caption'}")
    path = photo_path(photo)
    transaction.on_commit(lambda: path.unlink(missing_ok=True))
