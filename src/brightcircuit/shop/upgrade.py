"""Bringing a data folder up to date: back up, migrate, collect static files."""

import tempfile
from collections.abc import Callable
from pathlib import Path

from django.conf import settings
from django.core.management import CommandError, call_command
from django.db import connection
from django.db.migrations.executor import MigrationExecutor

from brightcircuit.library.services import add_generic
from brightcircuit.shop.backup import write_backup


def _require_writable(folder: Path) -> None:
    """Raise CommandError where nothing can be written to a folder."""
    try:
        with tempfile.TemporaryFile(dir=folder):
            pass
    except OSError as error:
        raise CommandError(
            f"Nothing can be written to {folder}: {error.strerror}. Nothing was changed."
        ) from None


def bring_up_to_date(say: Callable[[str], object]) -> None:
    """Migrate what needs it (after a backup, where there is data) and collect static files.

    Raises CommandError, changing nothing, where the data are newer than this copy or cannot be
    written.
    """
    _require_writable(Path(settings.DATA))
    executor = MigrationExecutor(connection)
    unknown = set(executor.loader.applied_migrations) - set(executor.loader.disk_migrations)
    if unknown:
        app, name = sorted(unknown)[0]
        raise CommandError(
            f"The data in {settings.DATA} are of a newer Bright Circuit ({app} {name}). "
            "Start that one, or restore a backup made before it; nothing was changed."
        )
    if executor.migration_plan(executor.loader.graph.leaf_nodes()):
        if "jobs_job" in connection.introspection.table_names():
            path, count = write_backup(None)
            say(f"Backed up {count} jobs to {path} before the upgrade.")
        call_command("migrate", interactive=False, verbosity=0)
    add_generic()
    call_command("collectstatic", interactive=False, verbosity=0)
