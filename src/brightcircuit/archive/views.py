"""The archive as a download, for a shop lead."""

import tempfile

from django.http import FileResponse, HttpRequest
from django.utils import timezone

from brightcircuit.archive.services import write_archive
from brightcircuit.common.actor import actor


def archive_file(request: HttpRequest) -> FileResponse:
    """Download everything of the shop as one archive."""
    out = tempfile.TemporaryFile()  # noqa: SIM115 (the answer closes it)
    write_archive(actor(request), out)
    out.seek(0)
    name = f"bright-circuit-{timezone.localdate():%Y-%m-%d}.zip"
    return FileResponse(out, as_attachment=True, filename=name, content_type="application/zip")
