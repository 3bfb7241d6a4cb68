"""Backup and restore of the database and the photos, each verified."""

import shutil
import sqlite3
import tempfile
import zipfile
from datetime import datetime
from pathlib import Path

from django.conf import settings
from django.core.management.base import CommandError
from django.db import connection

DATABASE = "bright.sqlite3"
MEDIA = "media"
OWN_FILES = ("classes.yaml",)
"""What a shop makes beside its database."""


def database_path() -> Path:
    """Return the file of the present database."""
    return Path(connection.settings_dict["NAME"])


def verify(path: Path) -> int:
    """Return the number of jobs in a backup; raises CommandError where it is not sound."""
    try:
        with zipfile.ZipFile(path) as archive, tempfile.TemporaryDirectory() as folder:
            broken = archive.testzip()
            if broken:
                raise CommandError(f"{path} is damaged at {broken}.")
            archive.extract(DATABASE, folder)
            with sqlite3.connect(f"file:{Path(folder) / DATABASE}?mode=ro", uri=True) as found:
                if found.execute("PRAGMA integrity_check").fetchone()[0] != "ok":
                    raise CommandError(f"The database in {path} is damaged.")
                return int(found.execute("SELECT count(*) FROM jobs_job").fetchone()[0])
    except (sqlite3.DatabaseError, zipfile.BadZipFile, KeyError, OSError) as error:
        raise CommandError(f"{path} is not a backup of Bright Circuit: {error}") from None


def write_backup(target: Path | None) -> tuple[Path, int]:
    """Copy the running database (SQLite's online backup) and the photos; returns (file, number of
    jobs)."""
    stamp = datetime.now().strftime("%Y%m%d-%H%M%S-%f")
    path = target or Path(settings.DATA) / "backups" / f"bright-{stamp}.zip"
    if path.exists():
        raise CommandError(f"{path} exists; nothing was overwritten.")
    path.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
    scratch = path.with_name(f"{path.name}.part")
    try:
        _write(scratch)
        scratch.chmod(0o600)
        count = verify(scratch)
        # The name appears only when the whole file was written and read back.
        scratch.rename(path)
    finally:
        scratch.unlink(missing_ok=True)
    return path, count


def _write(path: Path) -> None:
    """Write a backup to a file: database, photos, and what the shop made beside them."""
    data = Path(settings.DATA)
    media = data / MEDIA
    with (
        tempfile.TemporaryDirectory() as folder,
        zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as archive,
    ):
        copy = Path(folder) / DATABASE
        # SQLite's own copy of a running database. A plain copy of the file would miss what is still
        # in its log.
        with sqlite3.connect(database_path()) as source, sqlite3.connect(copy) as database:
            source.backup(database)
        archive.write(copy, DATABASE)
        for file in sorted(media.glob("*")) if media.exists() else ():
            archive.write(file, f"{MEDIA}/{file.name}")
        for name in OWN_FILES:
            if (data / name).exists():
                archive.write(data / name, name)


def _has_data() -> bool:
    """Return whether there is anything here that a backup would keep."""
    path = database_path()
    if not path.exists():
        return False
    with sqlite3.connect(f"file:{path}?mode=ro", uri=True) as found:
        tables = found.execute("SELECT name FROM sqlite_master WHERE name = 'jobs_job'")
        return tables.fetchone() is not None


def read_backup(source: Path) -> tuple[Path | None, int]:
    """Put a verified backup in place; the present data is kept beside it. Returns (kept, jobs);
    nothing is kept where there is nothing, as on a new machine."""
    count = verify(source)
    # What is there now is kept first: the backup that is put in may be the wrong one.
    kept = write_backup(None)[0] if _has_data() else None
    connection.close()
    media = Path(settings.DATA) / MEDIA
    with zipfile.ZipFile(source) as archive, tempfile.TemporaryDirectory() as folder:
        archive.extract(DATABASE, folder)
        with (
            sqlite3.connect(Path(folder) / DATABASE) as backup,
            sqlite3.connect(database_path()) as target,
        ):
            backup.backup(target)
        media.mkdir(parents=True, exist_ok=True)
        for name in (n for n in archive.namelist() if n.startswith(f"{MEDIA}/")):
            with archive.open(name) as packed, (media / Path(name).name).open("wb") as out:
                shutil.copyfileobj(packed, out)
        for name in (name for name in OWN_FILES if name in archive.namelist()):
            (Path(settings.DATA) / name).write_bytes(archive.read(name))
    return kept, count
