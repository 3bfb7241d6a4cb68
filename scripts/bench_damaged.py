"""Pictures and archives that were damaged at random, each given to what takes it in. Run by
bench.py on a data folder of its own."""

import io
import os
import sys
import time
from collections.abc import Callable
from functools import partial
from pathlib import Path
from random import Random

ROOT = Path(__file__).resolve().parent.parent
sys.path[:0] = [str(ROOT / "src"), str(ROOT)]
os.environ["DJANGO_SETTINGS_MODULE"] = "brightcircuit.settings"

import django

django.setup()

from django.core.exceptions import ValidationError
from django.core.management import call_command
from django.db import transaction
from tests.strange_files import damaged

from brightcircuit.archive.services import read_archive, write_archive
from brightcircuit.archive.tables import tables
from brightcircuit.demo.load import load_demo
from brightcircuit.jobs.photos import clean_picture
from brightcircuit.shop.models import Person, Role
from brightcore.errors import FormatError

PICTURES, ARCHIVES = 2_000, 400
KINDS = ("JPEG", "PNG", "WEBP")
Told = list[int]
"""How many were taken, refused, and ended otherwise."""


def picture(kind: str) -> bytes:
    """Return a picture with something on it."""
    from PIL import Image

    out = io.BytesIO()
    Image.effect_noise((320, 200), 60).convert("RGB").save(out, kind)
    return out.getvalue()


def pictures(kind: str, chance: Random) -> Told:
    """Return what became of damaged pictures of a kind."""
    content, told = picture(kind), [0, 0, 0]
    for _ in range(PICTURES):
        try:
            clean_picture(damaged(content, chance))
            told[0] += 1
        except ValidationError:
            told[1] += 1
        except Exception:
            told[2] += 1
    return told


def whole_archive() -> bytes:
    """Return the archive of the demo's shop, and leave the copy empty."""
    out = io.BytesIO()
    write_archive(Person.objects.filter(role=Role.LEAD)[0], out)
    for model in reversed(tables()):
        model.objects.all().delete()  # type: ignore[attr-defined]
    return out.getvalue()


def archives(content: bytes, chance: Random) -> Told:
    """Return what became of damaged archives, each put into an empty copy and taken back."""
    told = [0, 0, 0]
    for _ in range(ARCHIVES):
        with transaction.atomic():
            try:
                read_archive(io.BytesIO(damaged(content, chance)))
                told[0] += 1
            except FormatError:
                told[1] += 1
            except Exception:
                told[2] += 1
            transaction.set_rollback(True)
    return told


def main() -> None:
    """Print the rows of a table."""
    call_command("migrate", verbosity=0)
    load_demo()
    chance = Random(20263)
    for kind in KINDS:
        row(f"picture ({kind})", partial(pictures, kind, chance))
    whole = whole_archive()
    row("archive of a shop", partial(archives, whole, chance))


def row(name: str, work: Callable[[], Told]) -> None:
    """Print what became of the files of one kind."""
    begun = time.process_time()
    told = work()
    each = 1e3 * (time.process_time() - begun) / sum(told)
    print(f"| {name} | {told[0]} | {told[1]} | {told[2]} | {each:.1f} ms |", flush=True)


if __name__ == "__main__":
    main()
