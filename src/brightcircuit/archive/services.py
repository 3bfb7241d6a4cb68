"""Writing and reading the archive: a ZIP of a manifest, open files of every bike and job, tables
and photos.

The open files are for other programs and for people; an empty copy is filled from the tables, so
that it is the same afterwards. Decision 0033.
"""

import hashlib
import io
import zipfile
import zlib
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from django.db import connection
from django.db.migrations.recorder import MigrationRecorder

from brightcircuit.archive.tables import is_empty, name_of, put_in, rows_of, tables
from brightcircuit.bikes.models import Bike
from brightcircuit.bikes.queries import latest_revision
from brightcircuit.common.permissions import require_lead
from brightcircuit.jobs.models import Job
from brightcircuit.jobs.photos import media_folder
from brightcircuit.shop.models import Person
from brightcircuit.stations.files import export_job
from brightcore.errors import FormatError, Problem
from brightcore.formats.bike_writing import canonical_json
from brightcore.formats.plain import JsonObject, read_json

FORMAT, VERSION = "bright-circuit/archive", 1
MANIFEST = "manifest.json"
MEDIA = "media/"

BROKEN = (
    zipfile.BadZipFile,
    zlib.error,
    OSError,
    EOFError,
    NotImplementedError,
    # Where its directory points before the file, and where it says that it is encrypted.
    ValueError,
    RuntimeError,
)
"""What the reading of a ZIP raises where some of it is not as it was written."""

MOST_BYTES, MOST_FILES = 4_000_000_000, 200_000
EPOCH = (2026, 1, 1, 0, 0, 0)
"""Time written into every file of an archive, so that the same content gives the same bytes."""

READ_ME = """Bright Circuit archive

manifest.json  what is in here, with size and SHA-256 of every file
bikes/         every bike as it is described last (bright-circuit/bike)
jobs/          every job with its evidence and log (bright-circuit/job)
tables/        every table as JSON: an empty copy is filled from these
media/         photos

People are in it without their passwords: a shop lead gives them new ones.
Riders' contacts are in it. Keep it as you keep them.
"""


def _files() -> Iterator[tuple[str, bytes]]:
    """Yield (name, content) of everything but the manifest."""
    yield "README.txt", READ_ME.encode()
    for bike in Bike.objects.order_by("pk"):
        yield f"bikes/{bike.uuid}.json", latest_revision(bike).document.encode()
    for job in Job.objects.order_by("pk").select_related("revision__bike", "arrival", "match_plan"):
        yield f"jobs/{job.uuid}.json", canonical_json(export_job(job)).encode()
    for model in tables():
        yield name_of(model), canonical_json(rows_of(model)).encode()
    folder = media_folder()
    for path in sorted(folder.glob("*.jpg")) if folder.exists() else ():
        yield f"{MEDIA}{path.name}", path.read_bytes()


def schema_names() -> list[str]:
    """Return the names of the changes to the tables that this copy has made, ours alone."""
    # Names of migrations and not a number: two copies may have made different ones.
    done = MigrationRecorder(connection).applied_migrations()
    known = {model._meta.app_label for model in tables()}
    return sorted(f"{app}.{name}" for app, name in done if app in known)


def write_archive(actor: Person | None, out: Any) -> int:
    """Write everything to a file; returns how many files. For a shop lead, or the command line
    (None)."""
    if actor is not None:
        require_lead(actor)
    listed: list[JsonObject] = []
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, content in _files():
            digest = hashlib.sha256(content).hexdigest()
            listed.append({"name": name, "size": len(content), "sha256": digest})
            # One fixed time in every file, so that two archives of the same data are the same
            # bytes.
            archive.writestr(zipfile.ZipInfo(name, EPOCH), content, zipfile.ZIP_DEFLATED)
        manifest = {"format": FORMAT, "version": VERSION, "tables": schema_names(), "files": listed}
        archive.writestr(
            zipfile.ZipInfo(MANIFEST, EPOCH), canonical_json(manifest), zipfile.ZIP_DEFLATED
        )
    return len(listed)


def _refuse(path: str, words: str) -> FormatError:
    return FormatError((Problem(path, words),))


def _manifest(archive: zipfile.ZipFile) -> JsonObject:
    """Return the manifest; raises FormatError for another format, a newer version, or one that is
    none."""
    try:
        found = read_json(archive.read(MANIFEST))
    except (KeyError, ValueError, RecursionError):
        raise _refuse(
            MANIFEST, "is missing or no JSON: this is no archive of Bright Circuit"
        ) from None
    if not isinstance(found, dict) or found.get("format") != FORMAT:
        raise _refuse(f"{MANIFEST}.format", f"wanted {FORMAT!r}")
    if found.get("version") != VERSION:
        raise _refuse(
            f"{MANIFEST}.version", f"is {found.get('version')}; this copy reads {VERSION}"
        )
    if not _is_well_formed(found):
        raise _refuse(MANIFEST, "does not list its tables and files as it should")
    ours, theirs = set(schema_names()), set(found["tables"])
    newer, older = sorted(theirs - ours), sorted(ours - theirs)
    if newer:
        raise _refuse(
            f"{MANIFEST}.tables", f"made by a newer copy ({newer[0]}): upgrade this one first"
        )
    if older:
        raise _refuse(
            f"{MANIFEST}.tables",
            f"made by an older copy (without {older[0]}): upgrade that one, write again",
        )
    return found


def _is_well_formed(manifest: dict[str, Any]) -> bool:
    """Return whether a manifest lists tables by name, and files by name and sum."""
    tables, files = manifest.get("tables"), manifest.get("files")
    if not isinstance(tables, list) or not isinstance(files, list):
        return False
    named = all(isinstance(name, str) for name in tables)
    summed = all(isinstance(row, dict) and isinstance(row.get("name"), str) for row in files)
    return named and summed


def _read(archive: zipfile.ZipFile) -> dict[str, bytes]:
    """Return every file by its name, each proven against the manifest; raises FormatError."""
    listed = _manifest(archive)["files"]
    names = set(archive.namelist())
    # Looked at before anything is unpacked: a small file can unfold to more than the disk holds.
    if len(names) > MOST_FILES or sum(info.file_size for info in archive.infolist()) > MOST_BYTES:
        raise _refuse(MANIFEST, "more than an archive can hold")
    found, problems = {}, []
    for i, row in enumerate(listed):
        path = f"{MANIFEST}.files[{i}]"
        name = row["name"]
        if name not in names:
            problems.append(Problem(path, f"{name} is not in the archive"))
            continue
        content = archive.read(name)
        if hashlib.sha256(content).hexdigest() != row.get("sha256"):
            problems.append(Problem(path, f"{name} is not as it was written"))
        found[name] = content
    extra = sorted(names - set(found) - {MANIFEST})
    if extra and not problems:
        problems.append(Problem(MANIFEST, f"does not name {extra[0]}"))
    if problems:
        raise FormatError(tuple(problems[:20]))
    return found


def read_archive(source: Path | io.BytesIO) -> int:
    """Fill an empty copy from an archive; returns the rows stored.

    Raises FormatError for what is broken, truncated, newer or older, or where this copy is not
    empty; then nothing is changed.
    """
    if not is_empty():
        raise _refuse("this copy", "is not empty: people, bikes or jobs are in it already")
    try:
        with zipfile.ZipFile(source) as archive:
            found = _read(archive)
    except BROKEN as error:
        raise _refuse("file", f"is no whole archive: {error}") from None
    rows = {}
    for name, content in found.items():
        if name.startswith("tables/"):
            try:
                rows[name] = read_json(content)
            except (ValueError, RecursionError):
                raise _refuse(name, "is no JSON") from None
    count = put_in(rows)
    for name, content in found.items():
        if name.startswith(MEDIA):
            _keep(name.removeprefix(MEDIA), content)
    return count


def _keep(name: str, content: bytes) -> None:
    """Write one photo; a name that leads elsewhere is refused by taking its last part alone."""
    folder = media_folder()
    folder.mkdir(parents=True, exist_ok=True, mode=0o700)
    path = folder / Path(name).name
    path.write_bytes(content)
    path.chmod(0o600)
