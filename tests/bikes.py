"""Bikes and engines that several tests share; built once per process."""

import json
from dataclasses import replace
from functools import cache
from pathlib import Path
from random import Random
from typing import Any

from brightcore.bike.model import Bike, Part, Pin, Port, Spec
from brightcore.describing.edit import Changed, add_part
from brightcore.describing.join_edits import add_join, extend
from brightcore.describing.patterns import PATTERNS, make_pattern
from brightcore.describing.swap import swap_part
from brightcore.describing.things import under_old_ids
from brightcore.formats.bike_file import load_bike, read_bike
from brightcore.kinds import REGISTRY
from brightcore.tracing.engine import Engine

DEMO = Path(__file__).parent.parent / "src" / "brightcircuit" / "demo"
DEMO_BIKES = ("fern", "otter", "teasel")


def document(name: str) -> Any:
    """Return a demo bike file as parsed JSON, free to change."""
    return json.loads((DEMO / f"{name}.json").read_text())


def changed(name: str, *changes: tuple[str, Any]) -> Any:
    """Return a demo bike's JSON with values set by path such as `parts.pack.spec.fuse_a`; None
    removes."""
    found = document(name)
    for path, value in changes:
        *keys, last = path.split(".")
        here = found
        for key in keys:
            here = (
                next(item for item in here if item["id"] == key)
                if isinstance(here, list)
                else here.setdefault(key, {})
            )
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


def in_place(
    bike: Bike, part_id: str, kind: str, name: str, spec: Spec, ports: tuple[Port, ...]
) -> Changed:
    """Return a swap under the ids of the old part and its connections, to be compared with what was
    before."""
    made = swap_part(bike, part_id, kind, name, spec, ports)
    return replace(made, bike=under_old_ids(bike, made.bike))


def generated_bike(seed: int, count: int) -> Bike:
    """Return a made-up bike of about `count` parts: a pattern with extensions, lamps and wires
    across it; the same for the same seed."""
    chance = Random(seed)
    bike = make_pattern(chance.choice(tuple(PATTERNS)[:7]), f"Generated {seed}")
    while len(bike.parts) < count:
        pick = chance.random()
        if pick < 0.5:
            direct = [
                j for j in bike.joins if "cable" not in {bike.part(p).kind for p, _ in j.sides()}
            ]
            bike = extend(
                bike, chance.choice(direct or bike.joins).id, round(chance.uniform(0.1, 1.0), 2)
            )
        elif pick < 0.8:
            bike = _with_leaf(bike, chance)
        else:
            bike = _with_crossing(bike, chance)
    return bike


MOST_PLUGS = 36
"""Plugs that a generated part has at most; a file may hold some more."""


def _room(part: Part) -> bool:
    """Return whether a part may grow another plug."""
    return len(part.ports) < MOST_PLUGS


def _grown(bike: Bike, part: Part, port: Port) -> Bike:
    """Return the bike with one more plug on a part."""
    made = replace(part, ports=(*part.ports, port))
    return replace(bike, parts=tuple(made if p.id == part.id else p for p in bike.parts))


def _with_leaf(bike: Bike, chance: Random) -> Bike:
    """Return the bike with a lamp, throttle or sensor on a new plug of a controller."""
    controller = chance.choice(bike.of_kind("controller"))
    if not _room(controller):
        return bike
    kind, roles = chance.choice(
        (
            ("lamp", ("accessory_plus", "signal_ground")),
            ("pedal_sensor", ("supply_5v", "signal_ground", "pedal_signal")),
        )
    )
    name = f"{kind.replace('_', ' ').capitalize()} {len(bike.parts)}"
    plug = Port(
        f"extra{len(bike.parts)}",
        tuple(
            Pin(f"p{n}", role, role.replace("_", " "), chance.choice(("", "red", "green")))
            for n, role in enumerate(roles)
        ),
        name,
    )
    spec = REGISTRY[kind].spec_type()
    bike = add_part(_grown(bike, controller, plug), kind, name, spec, REGISTRY[kind].ports(spec))
    return add_join(bike, f"{controller.id}.{plug.id}", f"{bike.parts[-1].id}.plug")


def _with_crossing(bike: Bike, chance: Random) -> Bike:
    """Return the bike with a cable between new plugs of any two parts."""
    one, two = chance.sample([p for p in bike.parts if p.kind != "cable" and _room(p)], 2)
    pins = tuple(Pin(f"w{n}") for n in range(chance.randint(1, 4)))
    spec = REGISTRY["cable"].spec_type()
    tag = len(bike.parts)
    ends = tuple(Port(end, pins, f"Crossing {tag} {end}") for end in ("near", "far"))
    bike = add_part(bike, "cable", f"Crossing {tag}", spec, ends)
    cable = bike.parts[-1].id
    for part, end in ((one, "near"), (two, "far")):
        bike = _grown(bike, bike.part(part.id), Port(f"cross{tag}", pins, f"Crossing {tag}"))
        bike = add_join(bike, f"{part.id}.cross{tag}", f"{cable}.{end}")
    return bike


def with_spec(bike: Bike, part_id: str, **spec: object) -> Bike:
    """Return a bike with spec values of one part changed."""
    part = bike.part(part_id)
    return replace(
        bike,
        parts=tuple(
            replace(p, spec=replace(p.spec, **spec)) if p is part else p for p in bike.parts
        ),
    )
