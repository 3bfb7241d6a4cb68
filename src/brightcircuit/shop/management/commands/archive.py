"""Everything as one archive of open files: write it, or fill an empty copy from it."""

from argparse import ArgumentParser
from pathlib import Path
from typing import Any

from django.core.management import call_command
from django.core.management.base import BaseCommand, CommandError

from brightcircuit.archive.services import read_archive, write_archive
from brightcore.errors import FormatError


class Command(BaseCommand):
    """`manage.py archive FILE` writes, `manage.py archive --import FILE` fills an empty copy."""

    help = "Write everything as one archive of open files, or fill an empty copy from one."

    def add_arguments(self, parser: ArgumentParser) -> None:
        """Take the file, and which way."""
        parser.add_argument("file", type=Path)
        parser.add_argument(
            "--import", action="store_true", dest="take_in", help="fill this empty copy"
        )

    def handle(self, *args: Any, file: Path, take_in: bool, **options: Any) -> None:
        """Write or read; says how much."""
        if take_in:
            call_command("migrate", verbosity=0)
            try:
                count = read_archive(file)
            except FormatError as error:
                raise CommandError("\n".join(str(problem) for problem in error.problems)) from None
            self.stdout.write(
                f"{count} rows are in. Nobody has a password yet: ./bright lead makes a shop lead."
            )
            return
        if file.exists():
            raise CommandError(f"{file} exists; nothing was overwritten.")
        scratch = file.with_name(f"{file.name}.part")
        try:
            with scratch.open("wb") as out:
                scratch.chmod(0o600)
                count = write_archive(None, out)
            scratch.rename(file)
        finally:
            scratch.unlink(missing_ok=True)
        self.stdout.write(f"{file}: {count} files")
