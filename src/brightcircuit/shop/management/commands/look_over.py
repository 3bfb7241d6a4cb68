"""Look the data folder over."""

from typing import Any

from django.core.management.base import BaseCommand, CommandError

from brightcircuit.shop.soundness import look_over


class Command(BaseCommand):
    """Say what is sound and what is not; nothing is changed."""

    help = "Integrity of the database, photos, free space, age of the last backup."

    def handle(self, *args: Any, **options: Any) -> None:
        wrong = 0
        for sound, words in look_over():
            wrong += not sound
            self.stdout.write(f"{'ok   ' if sound else 'WRONG'} {words}")
        if wrong:
            raise CommandError(f"{wrong} of these need a look.")
