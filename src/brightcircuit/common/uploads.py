"""Files that come in."""

from typing import Any

from django.core.files.uploadedfile import UploadedFile

from brightcore.errors import FormatError, Problem
from brightcore.formats.bike_file import MAX_BYTES


def read_upload(upload: "UploadedFile[Any]") -> bytes:
    """Return an uploaded file's bytes; raises FormatError where it is too large."""
    size = upload.size or 0
    if size > MAX_BYTES:
        words = f"the file is {size / 1e6:.1f} MB; up to {MAX_BYTES // 1_000_000} MB can be read"
        raise FormatError((Problem("$", words),))
    content: bytes = upload.read()
    return content
