"""Bikes and engines that several tests share; built once per process."""

import json
from functools import cache
from pathlib import Path
from typing import Any

from brightcore.bike.model import Bike
from brightcore.formats.bike_file import load_bike, read_bike
from brightcore.tracing.engine import Engine

DEMO = Path(__file__).parent.parent / "src" / "brightcircuit" / "demo"
DEMO_BIKES = ("fern", "otter", "teasel")


def document(name: str) -> Any:
    """Return a demo bike file as parsed JSON, free to change."""
    return json.loads((DEMO / f"{name}.json").read_text())


def changed(name: str, *changes: tuple[str, Any]) -> Any:
    """Return a demo bike's JSON with values set by path such as `parts.pack.spec.fuse_a`; None removes."""
    found = document(name)
    for path, value in changes:
        *keys, last = path.split(".")
        here = found
        for key in keys:
            here = next(item for item in here if item["id"] == key) if isinstance(here, list) else here.setdefault(key, {})
        if isinstance(here, list):
            here[:] = [item for item in here if item["id"] != last]
        elif value is None:
            here.pop(last)
        else:
            here[last] = value
    return found


def bike_of(raw: Any) -> Bike:
    """Return the bike of a changed document."""
    return read_bike(raw)


@cache
def demo_bike(name: str) -> Bike:
    """Return a demo bike."""
    return load_bike((DEMO / f"{name}.json").read_text())


@cache
def engine(name: str) -> Engine:
    """Return a fully prepared engine of a demo bike."""
    made = Engine(demo_bike(name))
    made.prepare()
    return made


@cache
def small_engine(name: str) -> Engine:
    """Return an engine without predictions; they are made when asked for."""
    return Engine(demo_bike(name))
