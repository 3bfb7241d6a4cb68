"""Bringing a data folder up to date: back up, migrate, collect static files."""

from collections.abc import Callable

from django.core.management import call_command
from django.db import connection
from django.db.migrations.executor import MigrationExecutor

from brightcircuit.library.services import add_generic
from brightcircuit.shop.backup import write_backup


def bring_up_to_date(say: Callable[[str], object]) -> None:
    """Migrate what needs it (after a backup, where there is data) and collect static files."""
    executor = MigrationExecutor(connection)
    if executor.migration_plan(executor.loader.graph.leaf_nodes()):
        if "jobs_job" in connection.introspection.table_names():
            path, count = write_backup(None)
            say(f"Backed up {count} jobs to {path} before the upgrade.")
        call_command("migrate", interactive=False, verbosity=0)
    add_generic()
    call_command("collectstatic", interactive=False, verbosity=0)
