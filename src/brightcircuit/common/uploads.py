"""Files that come in."""

from typing import Any

from django.core.files.uploadedfile import UploadedFile

from brightcore.errors import FormatError, Problem
from brightcore.formats.bike_file import MAX_BYTES


def read_upload(upload: "UploadedFile[Any]", most: int = MAX_BYTES) -> bytes:
    """Return an uploaded file's bytes; raises FormatError where it is larger than `most`."""
    size = upload.size or 0
    if size > most:
        words = f"the file is {size / 1e6:.1f} MB; up to {most // 1_000_000} MB can be read"
        raise FormatError((Problem("$", words),))
    content: bytes = upload.read()
    return content
