"""Files that nobody should send: good ones changed at random, the same for the same seed."""

import json
from collections.abc import Callable, Iterator
from copy import deepcopy
from functools import cache
from importlib.resources import files
from random import Random
from typing import Any

from brightcore.errors import BrightError
from brightcore.formats.bike_file import load_bike
from brightcore.formats.bike_list import read_bike_list
from brightcore.formats.bike_writing import bike_document, canonical_json
from brightcore.formats.case_file import load_case
from brightcore.formats.class_file import load_classes
from brightcore.formats.discharge_log import read_log
from brightcore.formats.job_file import job_document, load_job
from brightcore.formats.joins_csv import dump_joins_csv, read_joins_csv
from brightcore.formats.part_file import (
    dump_parts_csv,
    dump_parts_yaml,
    generic_entries,
    load_parts_csv,
    load_parts_yaml,
)
from brightcore.formats.profile_file import dump_profile, load_profile, shipped_profiles
from brightcore.formats.ride_file import read_ride
from brightcore.formats.settings_file import read_settings, settings_csv, settings_document
from tests.bikes import demo_bike

STRANGE: tuple[Any, ...] = (
    None,
    True,
    -1,
    0,
    10**18,
    -0.0,
    1e308,
    "",
    "x" * 9000,
    "\x00",
    "\ud800",
    "\u202e",
    "=1+1",
    "4k7",
    [],
    {},
    [[[]]],
    {"a": {}},
    "NaN",
    "2026-01-31",
    "../../x",
    "<b>",
)
CLASSES = files("brightcore.formats").joinpath("classes.yaml").read_text(encoding="utf-8")
Importer = Callable[[str], object]

BIKE_LIST = "label,frame number,template,notes\nRowan,LY-1,hub-conversion,\nFern,LY-2,folding,x\n"
DISCHARGE = "time,voltage,current\n0,54.2,2.0\n60,53.9,2.0\n120,53.7,2.0\n"
RIDE_CSV = "time,lat,lon,speed\n0,50.1,8.2,0\n1,50.1001,8.2,12\n2,50.1002,8.2,14\n"
RIDE_GPX = """<?xml version="1.0"?><gpx version="1.1" creator="x"><trk><trkseg>
<trkpt lat="50.1" lon="8.2"><ele>90</ele><time>2026-11-26T14:05:00Z</time></trkpt>
<trkpt lat="50.1001" lon="8.2"><ele>91</ele><time>2026-11-26T14:05:01Z</time></trkpt>
</trkseg></trk></gpx>"""


def _as_bytes(read: Callable[[bytes], object]) -> Importer:
    """Return an importer of bytes as one of text, as a browser sends it."""
    return lambda text: read(text.encode("utf-8", "surrogatepass"))


def _of_devices() -> tuple[tuple[str, str, Importer], ...]:
    """Return good files of devices: profiles and settings."""
    profile = shipped_profiles()[0]
    values = {item.code: item.default for item in profile.parameters}
    as_json = settings_document(profile, values)
    as_csv = settings_csv(profile, values)
    return (
        ("profile", dump_profile(profile), load_profile),
        ("settings", as_json, _as_bytes(lambda raw: read_settings(raw, "x.json", profile))),
        ("settings as CSV", as_csv, _as_bytes(lambda raw: read_settings(raw, "x.csv", profile))),
    )


def _of_logs() -> tuple[tuple[str, str, Importer], ...]:
    """Return good files that were logged, and lists that were typed."""
    return (
        ("ride as GPX", RIDE_GPX, _as_bytes(lambda raw: read_ride(raw, "x.gpx"))),
        ("ride as CSV", RIDE_CSV, _as_bytes(lambda raw: read_ride(raw, "x.csv"))),
        ("discharge log", DISCHARGE, _as_bytes(read_log)),
        ("list of bikes", BIKE_LIST, read_bike_list),
    )


@cache
def good_files() -> tuple[tuple[str, str, Importer], ...]:
    """Return (importer's name, a file that it takes, the importer)."""
    bike = demo_bike("fern")
    raw = bike_document(bike)
    case = {
        "format": "bright-circuit/case",
        "version": 1,
        "bike": raw,
        "complaint": "Shudders",
        "evidence": [
            {"kind": "look", "value": "rough", "scene": "throttle", "observable": "motor"},
            {"kind": "volts", "value": "4.9", "condition": "on", "red": "a.b.c", "black": "a.b.d"},
        ],
    }
    head = {
        "uuid": "8c0cbd2e-0000-4000-8000-00000000000a",
        "number": 3,
        "status": "open",
        "complaint": "x",
        "opened": "2026-01-31T09:30:00+00:00",
        "round": 1,
        "match": {"hill_percent": 6},
        "repairs": [],
    }
    lines = [{"at": "2026-01-31T09:30:00+00:00", "by": "x", "what": "opened", "text": "Opened"}]
    job = job_document(raw, head, case["evidence"], lines)
    entries = generic_entries()[:12]
    return (
        ("bike", canonical_json(raw), load_bike),
        ("case", json.dumps(case), load_case),
        ("job", json.dumps(job), load_job),
        ("parts as YAML", dump_parts_yaml(entries), load_parts_yaml),
        ("parts as CSV", dump_parts_csv(entries), load_parts_csv),
        ("joins as CSV", dump_joins_csv(bike), lambda text: read_joins_csv(bike, text)),
        ("classes", CLASSES, load_classes),
        *_of_devices(),
        *_of_logs(),
    )


def changed(text: str, chance: Random) -> str:
    """Return a file with one to four things in it that do not belong there."""
    if text.startswith("{") and chance.random() < 0.7:
        document = json.loads(text)
        for _ in range(chance.randint(1, 4)):
            change_value(document, chance)
        return json.dumps(document)
    for _ in range(chance.randint(1, 4)):
        at = chance.randrange(len(text) + 1)
        what = chance.random()
        if what < 0.4:
            text = (
                text[:at]
                + chance.choice(("{", "]", ",", "\n", "\x00", "é", '"', ":", "- ", "&a ", "*a"))
                + text[at:]
            )
        elif what < 0.7:
            text = text[:at] + text[at + chance.randint(1, 40) :]
        elif what < 0.9:
            text = text[:at] + str(chance.choice(STRANGE)) + text[at:]
        else:
            text = text[: max(at, 1)]
    return text


def change_value(document: Any, chance: Random) -> None:
    """Put something strange in a random place of a document."""
    here = document
    while True:
        keys = list(here) if isinstance(here, dict) else list(range(len(here)))
        if not keys:
            return
        key = chance.choice(keys)
        inner = here[key]
        if isinstance(inner, dict | list) and inner and chance.random() < 0.8:
            here = inner
            continue
        if isinstance(here, dict) and chance.random() < 0.2:
            here[chance.choice(("x", "\x00", "kind", "id", ""))] = _strange(chance)
        elif chance.random() < 0.15:
            del here[key]
        else:
            here[key] = _strange(chance)
        return


def _strange(chance: Random) -> Any:
    """Return something strange, of its own: a list that two files share could come to hold
    itself."""
    return deepcopy(chance.choice(STRANGE))


def tried(count: int, seed: int) -> Iterator[tuple[str, bool, str]]:
    """Yield (importer, whether it took the file, what went wrong otherwise than by refusing it)."""
    chance = Random(seed)
    good = good_files()
    for k in range(count):
        name, text, importer = good[k % len(good)]
        try:
            importer(changed(text, chance))
            yield name, True, ""
        except BrightError:
            yield name, False, ""
        except Exception as error:
            yield name, False, f"{type(error).__name__}: {error}"[:200]


def damaged(content: bytes, chance: Random) -> bytes:
    """Return a binary file with some of it flipped, gone, doubled or cut off."""
    raw = bytearray(content)
    for _ in range(chance.randint(1, 6)):
        if not raw:
            break
        at, long = chance.randrange(len(raw)), chance.randint(1, 30)
        what = chance.random()
        if what < 0.5:
            raw[at] ^= 1 << chance.randrange(8)
        elif what < 0.7:
            del raw[at : at + long]
        elif what < 0.9:
            raw[at:at] = raw[at : at + long]
        elif len(raw) > 2 * long:
            del raw[-long:]
    return bytes(raw)
