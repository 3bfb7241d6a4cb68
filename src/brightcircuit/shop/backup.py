"""Backup and restore of the database, each verified."""

import sqlite3
from datetime import datetime
from pathlib import Path

from django.conf import settings
from django.core.management.base import CommandError
from django.db import connection


def database_path() -> Path:
    """Return the file of the present database."""
    return Path(connection.settings_dict["NAME"])


def verify(path: Path) -> int:
    """Return the number of jobs in a backup; raises CommandError where it is not a sound database."""
    try:
        with sqlite3.connect(f"file:{path}?mode=ro", uri=True) as found:
            if found.execute("PRAGMA integrity_check").fetchone()[0] != "ok":
                raise CommandError(f"{path} is damaged.")
            return int(found.execute("SELECT count(*) FROM jobs_job").fetchone()[0])
    except sqlite3.DatabaseError as error:
        raise CommandError(f"{path} is not a backup of Bright Circuit: {error}") from None


def write_backup(target: Path | None) -> tuple[Path, int]:
    """Copy the running database (SQLite's online backup); returns (file, number of jobs)."""
    stamp = datetime.now().strftime("%Y%m%d-%H%M%S")
    path = target or Path(settings.DATA) / "backups" / f"bright-{stamp}.sqlite3"
    if path.exists():
        raise CommandError(f"{path} exists; nothing was overwritten.")
    path.parent.mkdir(parents=True, exist_ok=True)
    with sqlite3.connect(database_path()) as source, sqlite3.connect(path) as copy:
        source.backup(copy)
    return path, verify(path)


def read_backup(source: Path) -> tuple[Path, int]:
    """Put a verified backup in place; the present data is kept beside it. Returns (kept, jobs)."""
    count = verify(source)
    kept, _ = write_backup(None)
    connection.close()
    with sqlite3.connect(source) as backup, sqlite3.connect(database_path()) as target:
        backup.backup(target)
    return kept, count
