"""The bike file: reading with every problem named by its JSON path, and canonical writing."""

import json
import typing
import uuid as uuids
from collections.abc import Iterator
from functools import cache, lru_cache
from itertools import islice

import jsonschema

from brightcore.bike.mating import fit_in_hand, pairs_by_hand
from brightcore.bike.model import (
    Bike,
    BikeInfo,
    Frame,
    Join,
    MeasuredValue,
    Part,
    Pin,
    Port,
    Setting,
    Wire,
    pair_pins,
)
from brightcore.bike.space import Room, Size, Space
from brightcore.errors import BrightError, FormatError, Problem
from brightcore.formats.border import MOST_TOLD, check_border
from brightcore.formats.plain import Json, JsonObject, read_json
from brightcore.formats.schema import BIKE_FORMAT, LATEST, VERSION, bike_schema, spec_schema
from brightcore.kinds import REGISTRY
from brightcore.kinds.base import Registry, type_hints
from brightcore.wiring.frames import FRAMES

MAX_BYTES = 2_000_000


def parse_json(text: str | bytes) -> Json:
    """Return the JSON value in `text`; raises FormatError for broken or oversized text."""
    if len(text) > MAX_BYTES:
        raise FormatError((Problem("$", f"the file is larger than {MAX_BYTES // 1_000_000} MB"),))
    try:
        document = read_json(text)
    except (ValueError, RecursionError) as error:
        raise FormatError((Problem("$", f"this is not JSON: {error}"),)) from None
    check_border(document)
    return document


def check_format(document: Json, wanted: str, path: str = "$") -> None:
    """Raise FormatError where the document is of another format or a newer version."""
    if not isinstance(document, dict):
        raise FormatError((Problem(path, "a Bright Circuit file is a JSON object"),))
    found, version = document.get("format"), document.get("version")
    if found != wanted:
        raise FormatError((Problem(f"{path}.format", f"is {found!r}, wanted {wanted!r}"),))
    latest = LATEST.get(wanted, VERSION)
    if isinstance(version, int) and version > latest:
        raise FormatError(
            (Problem(f"{path}.version", f"is {version}; this copy reads up to {latest}"),)
        )


@cache
def _validators() -> tuple[Json, Json, JsonObject]:
    """Return the validators of a bike without its parts, of a part without its kind, and of the
    spec of each kind.

    Together they say the same as the whole schema, which asks every part about every kind.
    """
    schema = bike_schema(REGISTRY)
    parts = schema["properties"]["parts"]
    part = {k: v for k, v in parts["items"].items() if k != "allOf"}
    whole = schema | {
        "properties": schema["properties"] | {"parts": parts | {"items": {"type": "object"}}}
    }
    specs = {}
    for k in REGISTRY:
        specs[k.name] = jsonschema.Draft202012Validator(spec_schema(k.spec_type))
    return jsonschema.Draft202012Validator(whole), jsonschema.Draft202012Validator(part), specs


def _shape_problems(document: Json, prefix: str) -> list[Problem]:
    """Return every way in which a document is not a bike file, with its JSON path."""
    problems = schema_problems(_validators()[0], document, prefix)
    parts = document.get("parts")
    for i, part in enumerate(parts if isinstance(parts, list) else ()):
        if isinstance(part, dict):
            for p in _part_problems(json.dumps(part, sort_keys=True)):
                problems.append(Problem(f"{prefix}.parts[{i}]{p.path}", p.message))
    return problems


@lru_cache(maxsize=2048)
def _part_problems(text: str) -> tuple[Problem, ...]:
    """Return what is wrong with the shape of one part; a change of a bike leaves most of its parts
    as they were."""
    part = json.loads(text)
    _, bare, specs = _validators()
    found = schema_problems(bare, part, "")
    kind = part.get("kind")
    if isinstance(kind, str) and kind in specs and isinstance(part.get("spec"), dict):
        found += schema_problems(specs[kind], part["spec"], ".spec")
    return tuple(found)


def schema_problems(validator: Json, document: Json, prefix: str = "$") -> list[Problem]:
    """Return the schema violations with their JSON paths, the first ones where there are very many.

    A list that is too long is not looked into.
    """
    found = _too_long(validator.schema, document, prefix)
    if found:
        return found
    for error in islice(validator.iter_errors(document), MOST_TOLD):
        # Of an alternative that fails, the branch that came furthest names the mistake; the outer
        # error only says that none fits.
        deepest = jsonschema.exceptions.best_match([error])
        path = prefix + "".join(
            f"[{p}]" if isinstance(p, int) else f".{p}" for p in deepest.absolute_path
        )
        found.append(Problem(path, deepest.message[:300]))
    return sorted(set(found), key=lambda p: p.path)


def _too_long(schema: Json, document: Json, prefix: str) -> list[Problem]:
    """Return what is wrong with the lengths of a document and of the lists in it."""
    lists = [(prefix, schema, document)]
    if isinstance(document, dict):
        rules = schema.get("properties", {})
        for name in rules:
            if name in document:
                lists.append((f"{prefix}.{name}", rules[name], document[name]))
    found: list[Problem] = []
    for path, rule, value in lists:
        if isinstance(value, list) and len(value) > rule.get("maxItems", len(value)):
            found.append(
                Problem(path, f"holds {len(value)} pieces; {rule['maxItems']} are the most")
            )
    return found


def read_bike(document: Json, registry: Registry = REGISTRY, prefix: str = "$") -> Bike:
    """Return the bike described by a parsed JSON document.

    Raises FormatError listing every problem: schema first, then meaning.
    """
    check_format(document, BIKE_FORMAT, prefix)
    problems = _shape_problems(document, prefix)
    if problems:
        raise FormatError(tuple(problems))
    problems = []
    parts = _parts(document, registry, prefix, problems)
    joins = _joins(document, {p.id: p for p in parts}, prefix, problems)
    known = {part.id for part in parts}
    for i, item in enumerate(document.get("settings", ())):
        if item["part"] not in known:
            problems.append(
                Problem(f"{prefix}.settings[{i}].part", f"there is no part {item['part']!r}")
            )
    for kind in registry:
        if kind.needed and not any(part.kind == kind.name for part in parts):
            problems.append(Problem(f"{prefix}.parts", f"a bike needs a {kind.name}"))
    for part in set(document.get("profiles", {})) - known:
        problems.append(Problem(f"{prefix}.profiles", f"there is no part {part!r}"))
    joined: set[str] = set()
    for raw in document["joins"]:
        joined |= {raw["from"], raw["to"]}
    frame = _frame(document, joined, prefix, problems)
    space = _space(document, known, prefix, problems)
    if problems:
        raise FormatError(tuple(problems))
    uuid = document.get("uuid") or str(
        # The same file read twice is the same bike, also where it carries no id.
        uuids.uuid5(uuids.NAMESPACE_OID, json.dumps(document, sort_keys=True))
    )
    rows = []
    for s in document.get("settings", ()):
        rows.append(Setting(s["part"], s["role"], float(s["value"])))
    settings = tuple(rows)
    measured = tuple(
        MeasuredValue(**{"words": "", **raw, "value": float(raw["value"])})
        for raw in document.get("measured", ())
    )
    profiles = tuple(sorted(document.get("profiles", {}).items()))
    return Bike(
        uuid,
        _info(document["bike"]),
        tuple(parts),
        tuple(joins),
        settings,
        frame,
        space,
        measured,
        profiles,
    )


def _info(raw: JsonObject) -> BikeInfo:
    hints = typing.get_type_hints(BikeInfo)
    values: JsonObject = {k: (v if hints[k] is str else float(v)) for k, v in raw.items()}
    return BikeInfo(**values)


def _parts(document: Json, registry: Registry, prefix: str, problems: list[Problem]) -> list[Part]:
    found: list[Part] = []
    for i, raw in enumerate(document["parts"]):
        path = f"{prefix}.parts[{i}]"
        if any(raw["id"] == part.id for part in found):
            problems.append(Problem(f"{path}.id", f"{raw['id']!r} is used twice"))
            continue
        kind = registry[raw["kind"]]
        hints = type_hints(kind.spec_type)
        spec_raw = {}
        for k, v in raw.get("spec", {}).items():
            spec_raw[k] = _typed(v, hints[k])
        spec = kind.spec_type(**spec_raw)
        problems.extend(Problem(f"{path}.spec.{f}", m) for f, m in kind.check_spec(spec))
        if "ports" in raw:
            ports = tuple(read_port(p) for p in raw["ports"])
        else:
            ports = kind.ports(spec)
        problems.extend(_named_twice([port.id for port in ports], "port", path))
        for port in ports:
            problems.extend(
                _named_twice([pin.name for pin in port.pins], f"pin of {port.id}", path)
            )
        if not ports:
            problems.append(
                Problem(f"{path}.ports", f"a {kind.title.lower()} needs its ports written out")
            )
        known = tuple(sorted(raw.get("known", {}).items()))
        problems.extend(
            Problem(f"{path}.known.{name}", "there is no such value")
            for name, _ in known
            if name not in hints
        )
        part = Part(
            raw["id"],
            kind.name,
            raw["name"],
            spec,
            ports,
            mark=raw.get("mark", ""),
            replaces=raw.get("replaces", ""),
            known=known,
        )
        problems.extend(_conductor_problems(part, path))
        found.append(part)
    return found


def _named_twice(names: list[str], where: str, path: str) -> Iterator[Problem]:
    for name in sorted(set(names)):
        if names.count(name) > 1:
            yield Problem(f"{path}.ports", f"{where} {name!r} is used twice")


def _conductor_problems(part: Part, path: str) -> Iterator[Problem]:
    ends: set[str] = set()
    for port in part.ports:
        ends |= {f"{port.id}.{pin.name}" for pin in port.pins}
    for i, pair in enumerate(getattr(part.spec, "conductors", ())):
        for end in pair:
            if end not in ends:
                yield Problem(f"{path}.spec.conductors[{i}]", f"there is no pin {end!r}")


def _typed(value: Json, hint: Json) -> Json:
    if isinstance(value, list):
        found = []
        for item in value:
            found.append(tuple(item) if isinstance(item, list) else item)
        return tuple(found)
    if hint is float:
        return float(value)
    return value


def read_port(raw: JsonObject) -> Port:
    """Return the port of one JSON object that has passed the schema."""
    rows = []
    for p in raw["pins"]:
        rows.append(Pin(p) if isinstance(p, str) else Pin(**p))
    pins = tuple(rows)
    return Port(pins=pins, **{k: v for k, v in raw.items() if k != "pins"})


def _joins(
    document: Json, parts: dict[str, Part], prefix: str, problems: list[Problem]
) -> list[Join]:
    found: list[Join] = []
    used: set[str] = set()
    for i, raw in enumerate(document["joins"]):
        path = f"{prefix}.joins[{i}]"
        if any(raw["id"] == join.id for join in found):
            problems.append(Problem(f"{path}.id", f"{raw['id']!r} is used twice"))
        ports = []
        for end in ("from", "to"):
            part_id, _, port_id = raw[end].partition(".")
            try:
                ports.append((part_id, parts[part_id].port(port_id)))
            except (KeyError, BrightError):
                problems.append(Problem(f"{path}.{end}", f"there is no port {raw[end]!r}"))
            if raw[end] in used:
                problems.append(Problem(f"{path}.{end}", f"{raw[end]!r} is already connected"))
            used.add(raw[end])
        if len(ports) < 2:
            continue
        (a_part, a), (b_part, b) = ports
        pairs: tuple[tuple[str, str], ...] = ()
        try:
            if "map" in raw:
                pairs = tuple((p, q) for p, q in raw["map"])
            else:
                pairs = _unmapped(a, b)
            for p, q in pairs:
                a.pin(p), b.pin(q)
        except BrightError as error:
            problems.append(Problem(f"{path}.map", str(error)))
            continue
        wire = Wire(**{k: float(v) for k, v in raw.get("wire", {}).items()})
        found.append(Join(raw["id"], a_part, a.id, b_part, b.id, pairs, wire))
    return found


def _unmapped(a: Port, b: Port) -> tuple[tuple[str, str], ...]:
    """Return the mates of a join without a map: by position where the plugs fit in the hand, else
    by name."""
    if fit_in_hand(a, b):
        return pairs_by_hand(a, b)
    return pair_pins(a, b)


def load_bike(text: str | bytes) -> Bike:
    """Return the bike in a file's text; raises FormatError."""
    return read_bike(parse_json(text))


def read_pieces(
    parts: list[JsonObject], joins: list[JsonObject]
) -> tuple[tuple[Part, ...], tuple[Join, ...]]:
    """Return parts and connections as `part_document` and `join_document` wrote them.

    They are pieces of a bike, so that no whole is asked for. Raises FormatError.
    """
    problems: list[Problem] = []
    found = _parts({"parts": parts}, REGISTRY, "$", problems)
    made = _joins({"joins": joins}, {part.id: part for part in found}, "$", problems)
    if problems:
        raise FormatError(tuple(problems))
    return tuple(found), tuple(made)


def _frame(document: Json, joined: set[str], prefix: str, problems: list[Problem]) -> Frame:
    """Return the frame of a document; notes what it names that is not there."""
    raw = document.get("frame", {})
    if raw.get("pattern", "") not in ("", *FRAMES):
        problems.append(
            Problem(
                f"{prefix}.frame.pattern",
                f"there is no frame {raw['pattern']!r}; known are {', '.join(FRAMES)}",
            )
        )
        return Frame()
    known = {"places": {p["id"] for p in document["parts"]}, "via": joined}
    for field, names in known.items():
        for name in raw.get(field, {}):
            if not set(name.split("|")) <= names:
                problems.append(
                    Problem(
                        f"{prefix}.frame.{field}",
                        (
                            "there is no "
                            f"{'part' if field == 'places' else 'pair of connected plugs'} "
                            f"{name!r}"
                        ),
                    )
                )
    lengths = tuple(sorted((k, float(v)) for k, v in raw.get("lengths_m", {}).items()))
    places, via = (tuple(sorted(raw.get(field, {}).items())) for field in known)
    return Frame(raw.get("pattern", ""), lengths, places, via, raw.get("wrapped", False))


def _space(document: Json, known: set[str], prefix: str, problems: list[Problem]) -> Space:
    """Return what was measured; notes parts that are not there and rooms of one id."""
    raw = document.get("space", {})
    for part in raw.get("sizes", {}):
        if part not in known:
            problems.append(Problem(f"{prefix}.space.sizes", f"there is no part {part!r}"))
    seen: set[str] = set()
    for i, room in enumerate(raw.get("rooms", ())):
        for part in set(room.get("parts", ())) - known:
            problems.append(
                Problem(f"{prefix}.space.rooms[{i}].parts", f"there is no part {part!r}")
            )
        if room["id"] in seen:
            problems.append(
                Problem(f"{prefix}.space.rooms[{i}].id", f"{room['id']!r} is used twice")
            )
        seen.add(room["id"])
    sizes = []
    for part, measured in sorted(raw.get("sizes", {}).items()):
        sizes.append(Size(part, **{name: float(value) for name, value in measured.items()}))
    rooms = tuple(_room(room) for room in raw.get("rooms", ()))
    return Space(tuple(sizes), rooms)


def _room(raw: JsonObject) -> Room:
    values: JsonObject = {
        k: v if isinstance(v, str) else float(v) for k, v in raw.items() if k != "parts"
    }
    return Room(**values, parts=tuple(raw.get("parts", ())))
