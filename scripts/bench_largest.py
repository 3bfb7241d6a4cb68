"""The largest and worst files that may be sent: processor time and memory of each. Run by
bench.py."""

import io
import json
import os
import re
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable, Iterator
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
sys.path[:0] = [str(ROOT / "src"), str(ROOT)]
os.environ["DJANGO_SETTINGS_MODULE"] = "brightcircuit.settings"

MOST = 2_000_000
"""Bytes of a file that can be sent."""

MOST_S, MOST_MB = 4.0, 200.0
"""What an importer may take: a GPX of the most places takes longest."""

SIDE, SIDE_WHOLE = 7_700, 4_400
"""Pixels of a side of the largest picture: of a plain JPEG, and of one that is opened as a
whole."""

File = tuple[str, str, bytes]
"""Words, name of the importer, content."""


def repeated(piece: str, head: str = "", tail: str = "", most: int = MOST) -> bytes:
    """Return a file that repeats a piece up to the limit; `#` in it is the number of the piece."""
    count = (most - len(head) - len(tail)) // (len(piece) + 6)
    return (head + "".join(piece.replace("#", str(n)) for n in range(count)) + tail).encode()


def bikes() -> Iterator[File]:
    """Yield a legal bike file of the most parts, and ones that hold as much as they can of what is
    wrong."""
    from tests.bikes import demo_bike, generated_bike

    from brightcore.formats.bike_writing import bike_document, canonical_json, dump_bike

    raw = bike_document(demo_bike("fern"))
    yield "of 119 parts, with its circuit", "bike", dump_bike(generated_bike(3, 119)).encode()
    for part in ("parts", "joins"):
        whole = json.dumps(raw | {part: "HERE"})
        head, tail = whole.split('"HERE"')
        yield f"nothing but wrong {part}", "bike", repeated('{"a": #},', head + "[", "0]" + tail)
        model = json.dumps(raw[part][0])  # type: ignore[index]
        yield (
            f"one of the {part} again and again",
            "bike",
            repeated(model + ",", head + "[", model + "]" + tail),
        )
    yield "another bike file twice as long", "bike", (canonical_json(raw) * 99).encode()[: MOST * 2]
    yield "nested", "bike", b"[" * MOST
    yield "one number of two million digits", "bike", b"1" * MOST
    yield "one text", "bike", b'"' + "é".encode() * (MOST // 2 - 10) + b'"'


def jobs() -> Iterator[File]:
    """Yield job files with as much of each list as fits."""
    from tests.strange_files import good_files

    good = json.loads(next(text for name, text, _ in good_files() if name == "job"))
    for part in ("log", "evidence"):
        model = good[part][0]
        room = MOST - len(json.dumps(good))
        count = room // (len(json.dumps(model)) + 3)
        yield (
            f"{count} pieces of {part}",
            "job",
            json.dumps(good | {part: [model] * count}).encode(),
        )


def tables() -> Iterator[File]:
    """Yield YAML and CSV."""
    from tests.bikes import demo_bike
    from tests.strange_files import CLASSES

    from brightcore.formats.joins_csv import dump_joins_csv
    from brightcore.formats.part_file import dump_parts_csv, dump_parts_yaml, generic_entries

    entries = generic_entries()
    yaml, (head, *rows) = (
        dump_parts_yaml(entries),
        dump_parts_csv(entries).splitlines(keepends=True),
    )
    joins_head, *joins = dump_joins_csv(demo_bike("fern")).splitlines(keepends=True)
    before, _, listed = yaml.partition("parts:\n")
    anchors = "".join(
        f"{chr(98 + n)}: &{chr(98 + n)} [{f'*{chr(97 + n)},' * 9}]\n" for n in range(20)
    )
    yield "as many as fit", "parts as YAML", f"{before}parts:\n{listed * 99}".encode()[:MOST]
    yield "short lines", "parts as YAML", repeated("- #\n")
    yield "nested", "parts as YAML", b"[" * MOST
    yield "anchors in anchors", "parts as YAML", ("a: &a [x]\n" + anchors).encode()
    yield "one long text", "parts as YAML", b'a: "' + b"x\\\n" * (MOST // 3 - 9) + b'"'
    yield "empty pairs", "parts as YAML", repeated("'': ''\n")
    yield "as many as fit", "parts as CSV", (head + "".join(rows) * 99).encode()[:MOST]
    yield "short rows", "parts as CSV", (head + "x\n" * (MOST // 2 - 999)).encode()
    yield "one row", "parts as CSV", (head + "x," * (MOST // 2 - 999)).encode()
    yield "as many as fit", "joins as CSV", (joins_head + "".join(joins) * 9999).encode()[:MOST]
    yield "short rows", "joins as CSV", (joins_head + "a,b\n" * (MOST // 4 - 99)).encode()
    yield "as many as fit", "classes", (CLASSES * 999).encode()[:MOST]
    yield "nested", "classes", b"{a: " * (MOST // 4)
    yield "as long as fits", "discharge log", repeated("#,50.1,2\n", "time,voltage,current\n")


def logs() -> Iterator[File]:
    """Yield rides, lists and device files as long as each may be."""
    from brightcore.formats.profile_file import dump_profile, shipped_profiles
    from brightcore.formats.ride_file import MAX_BYTES as RIDE_BYTES
    from brightcore.formats.settings_file import MAX_BYTES as SETTINGS_BYTES
    from brightcore.formats.settings_file import settings_csv

    place = '<trkpt lat="50.#" lon="8.2"><time>2026-11-26T14:05:00.#Z</time></trkpt>'
    head = '<gpx version="1.1" creator="x"><trk><trkseg>'
    tail = "</trkseg></trk></gpx>"
    yield "as long as fits", "ride as GPX", repeated(place, head, tail, 3_600_000)
    yield "more than is read", "ride as GPX", repeated(place, head, tail, RIDE_BYTES - 400_000)
    yield "nothing but tracks", "ride as GPX", repeated("<trk/>", "<gpx>", "</gpx>", RIDE_BYTES)
    yield "nested", "ride as GPX", b"<a>" * (RIDE_BYTES // 3)
    yield "as long as fits", "ride as CSV", repeated("#,12\n", "time,speed\n", "", RIDE_BYTES)
    yield "nothing but wrong rows", "ride as CSV", repeated("x,#\n", "time,speed\n", "", RIDE_BYTES)
    profile = shipped_profiles()[0]
    values = {item.code: item.default for item in profile.parameters}
    yield "all values", "settings as CSV", settings_csv(profile, values).encode()
    row = "P#,x,1,\n"
    yield (
        "unknown codes",
        "settings as CSV",
        repeated(row, "code,name,value,unit\n", "", SETTINGS_BYTES),
    )
    yield "again and again", "profile", (dump_profile(profile) * 99).encode()[:MOST]
    yield "nested", "profile", b'{"a":' * (MOST // 5)
    row = "Rowan #,LY-#,hub-conversion,\n"
    yield "as many as fit", "list of bikes", repeated(row, "label,frame number,template,notes\n")


def pictures() -> Iterator[File]:
    """Yield pictures of the most pixels, and of more."""
    from PIL import Image

    Image.MAX_IMAGE_PIXELS = None
    kinds: tuple[tuple[str, str, str, int, dict[str, object]], ...] = (
        ("as large as fits", "JPEG", "RGB", SIDE, {}),
        ("progressive", "JPEG", "RGB", SIDE_WHOLE, {"progressive": True, "subsampling": 0}),
        ("progressive, larger", "JPEG", "RGB", SIDE, {"progressive": True}),
        ("as large as fits", "PNG", "RGBA", SIDE_WHOLE, {}),
        ("with a palette", "PNG", "P", SIDE_WHOLE, {}),
        ("16 bits", "PNG", "I;16", SIDE_WHOLE, {}),
        ("400 million pixels", "PNG", "L", 20_000, {}),
        ("as large as fits", "WEBP", "RGB", 3_400, {}),
    )
    for words, kind, mode, side, how in kinds:
        out = io.BytesIO()
        Image.new(mode, (side, side)).save(out, kind, **how)
        yield f"{words}, {side} × {side}", f"picture ({kind})", out.getvalue()


def importer_of(name: str) -> Callable[[bytes], object]:
    """Return what takes a file of a kind in."""
    from tests.bikes import demo_bike

    from brightcircuit.bikes.services import read_bike_text
    from brightcircuit.jobs.photos import clean_picture
    from brightcore.formats.bike_list import read_bike_list
    from brightcore.formats.class_file import load_classes
    from brightcore.formats.discharge_log import read_log
    from brightcore.formats.job_file import load_job
    from brightcore.formats.joins_csv import read_joins_csv
    from brightcore.formats.part_file import load_parts_csv, load_parts_yaml
    from brightcore.formats.profile_file import load_profile, shipped_profiles
    from brightcore.formats.ride_file import read_ride
    from brightcore.formats.settings_file import read_settings

    if name.startswith("picture"):
        return clean_picture
    bike = demo_bike("fern") if name == "joins as CSV" else None
    profile = shipped_profiles()[0]
    return {
        "bike": read_bike_text,
        "job": load_job,
        "parts as YAML": load_parts_yaml,
        "parts as CSV": load_parts_csv,
        "joins as CSV": lambda content: read_joins_csv(bike, content),  # type: ignore[arg-type]
        "classes": load_classes,
        "discharge log": read_log,
        "ride as GPX": lambda content: read_ride(content, "x.gpx"),
        "ride as CSV": lambda content: read_ride(content, "x.csv"),
        "settings as CSV": lambda content: read_settings(content, "x.csv", profile),
        "profile": load_profile,
        "list of bikes": lambda content: read_bike_list(content.decode()),
    }[name]


def take(name: str, path: str) -> None:
    """Take one file in; print outcome, seconds of processor, and how far the memory grew, in MB."""
    import django

    django.setup()
    importer, content = importer_of(name), Path(path).read_bytes()
    before, begun = memory(), time.process_time()
    try:
        importer(content)
        outcome = "taken"
    except Exception as error:
        known = type(error).__module__.startswith(("brightcore", "django.core.exceptions"))
        outcome = "refused" if known else f"crashed: {type(error).__name__}"
    print(f"{outcome}|{time.process_time() - begun:.2f}|{max(memory() - before, 0):.0f}")


def memory() -> float:
    """Return the most memory this process has held, in MB."""
    status = Path("/proc/self/status").read_text()
    return int(re.search(r"VmHWM:\s+(\d+)", status)[1]) / 1024  # type: ignore[index]


def main() -> None:
    """Print a table."""
    over = 0
    print(
        "| importer | file | outcome | seconds of processor | MB |\n| --- | --- | --- | --- | --- |"
    )
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "file"
        for make in (bikes, jobs, tables, logs, pictures):
            for words, name, content in make():
                path.write_bytes(content)
                told = subprocess.run(
                    [sys.executable, __file__, name, str(path)],
                    capture_output=True,
                    text=True,
                    check=True,
                ).stdout.strip()
                outcome, seconds, grown = told.split("|")
                over += float(seconds) > MOST_S or float(grown) > MOST_MB or "crashed" in outcome
                print(f"| {name} | {words} | {outcome} | {seconds} | {grown} |", flush=True)
    print(f"\nMay take {MOST_S:g} s and {MOST_MB:g} MB. Over that or crashed: {over}.")


if __name__ == "__main__":
    if len(sys.argv) == 3:
        take(*sys.argv[1:])
    else:
        main()
