"""A backup a day while the server runs; the last fourteen are kept."""

import logging
import threading
import time
from datetime import timedelta
from pathlib import Path

from django.conf import settings
from django.db import close_old_connections

from brightcircuit.shop.backup import write_backup

logger = logging.getLogger(__name__)

KEPT = 14
EVERY = timedelta(days=1)
LOOK_EVERY_S = 3600.0
PATTERN = "daily-*.zip"


def backup_if_due(now: float | None = None) -> Path | None:
    """Write a backup where the last daily one is a day old, and give up the oldest; returns the new
    file."""
    folder = Path(settings.DATA) / "backups"
    now = time.time() if now is None else now
    if folder.exists():
        known = sorted(folder.glob(PATTERN))
    else:
        known = []
    if known and now - known[-1].stat().st_mtime < EVERY.total_seconds():
        return None
    stamp = time.strftime("%Y%m%d-%H%M%S", time.gmtime(now))
    made, _ = write_backup(folder / f"daily-{stamp}.zip")
    for old in [*known, made][:-KEPT]:
        old.unlink(missing_ok=True)
    return made


def keep_backing_up() -> None:
    """Look every hour, in a thread that ends with the server."""

    def look() -> None:
        while True:
            try:
                backup_if_due()
            except Exception:
                logger.exception("the daily backup failed")
            close_old_connections()
            time.sleep(LOOK_EVERY_S)

    threading.Thread(target=look, name="daily-backup", daemon=True).start()
