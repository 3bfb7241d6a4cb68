"""Restore a backup."""

from argparse import ArgumentParser
from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand

from brightcircuit.shop.backup import read_backup
from brightcircuit.shop.serving import holding


class Command(BaseCommand):
    """Put a backup in place."""

    help = (
        "Verify FILE and put it in place; stop the server first. The present data is kept "
        "as a backup."
    )

    def add_arguments(self, parser: ArgumentParser) -> None:
        parser.add_argument("file", type=Path)

    def handle(self, *args: Any, **options: Any) -> None:
        with holding("restore the backup"):
            kept, count = read_backup(options["file"])
        if kept is None:
            before = "Nothing was here before."
        else:
            before = f"What was here before is in {kept}."
        self.stdout.write(f"Restored {count} jobs. {before}")
