"""Looking a data folder over: integrity, photos and their rows, free space, age of the last
backup, and whether the clock stands before what was written already."""

import shutil
from collections.abc import Iterator
from datetime import datetime, timedelta
from pathlib import Path

from django.apps import apps
from django.conf import settings
from django.db import connection
from django.utils import timezone

from brightcircuit.shop.backup import MEDIA

LEAST_FREE = 500_000_000
OLDEST_BACKUP = timedelta(days=2)
MOST_NAMED = 5

CLOCK_APART = timedelta(minutes=2)
"""So far a clock may have been put right without a word."""


def look_over() -> Iterator[tuple[bool, str]]:
    """Yield (whether it is sound, what was looked at) for everything about the data folder."""
    yield _integrity()
    yield _relations()
    yield from _photos()
    yield _space()
    yield _backup()
    yield _clock()


def _integrity() -> tuple[bool, str]:
    with connection.cursor() as cursor:
        cursor.execute("PRAGMA integrity_check")
        (found,) = cursor.fetchone()
    return found == "ok", f"Database: {found}"


def _relations() -> tuple[bool, str]:
    with connection.cursor() as cursor:
        cursor.execute("PRAGMA foreign_key_check")
        lost = len(cursor.fetchall())
    return lost == 0, f"Rows that point nowhere: {lost}"


def _photos() -> Iterator[tuple[bool, str]]:
    """Compare the rows of photos with the files of the media folder."""
    folder = Path(settings.DATA) / MEDIA
    if folder.exists():
        files = {path.stem for path in folder.glob("*.jpg")}
    else:
        files = set()
    rows = {
        str(name)
        for name in apps.get_model("jobs", "Photo")
        .objects.filter(gone=None)
        .values_list("uuid", flat=True)
    }
    for title, names in (
        ("Photos without a row", files - rows),
        ("Rows without their photo", rows - files),
    ):
        named = ", ".join(sorted(names)[:MOST_NAMED])
        yield not names, f"{title}: {len(names)}" + (f" ({named})" if named else "")


def _space() -> tuple[bool, str]:
    free = shutil.disk_usage(settings.DATA).free
    return free >= LEAST_FREE, f"Free space: {free / 1e9:.1f} GB"


def _backup() -> tuple[bool, str]:
    folder = Path(settings.DATA) / "backups"
    if folder.exists():
        times = [path.stat().st_mtime for path in folder.glob("*.zip")]
    else:
        times = []
    if not times:
        return False, "Last backup: none yet, run ./bright backup"
    age = datetime.now() - datetime.fromtimestamp(max(times))
    return age <= OLDEST_BACKUP, f"Last backup: {age.days} days and {age.seconds // 3600} hours old"


def _clock() -> tuple[bool, str]:
    lines = apps.get_model("jobs", "LogEntry").objects.order_by("-pk")
    newest = lines.values_list("at", flat=True).first()
    if newest is None or newest <= timezone.now() + CLOCK_APART:
        return True, "Clock: after everything written"
    return False, f"Clock: before the newest line of the log, of {newest:%Y-%m-%d %H:%M} UTC"
