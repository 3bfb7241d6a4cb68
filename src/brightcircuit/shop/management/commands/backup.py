"""Back the data up."""

from argparse import ArgumentParser
from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand

from brightcircuit.shop.backup import write_backup


class Command(BaseCommand):
    """Copy the database while it runs."""

    help = "Copy the database to FILE (default: a new file in the data folder) and verify the copy."

    def add_arguments(self, parser: ArgumentParser) -> None:
        parser.add_argument("file", nargs="?", type=Path)

    def handle(self, *args: Any, **options: Any) -> None:
        path, count = write_backup(options["file"])
        self.stdout.write(f"{path}: verified, {count} jobs.")
