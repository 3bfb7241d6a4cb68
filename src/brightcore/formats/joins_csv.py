"""Joins as CSV (from, to, wire): one line for every mated pair of pins out; pins or whole plugs
in."""

import csv
import io
from collections.abc import Iterator, Sequence
from itertools import islice

from brightcore.bike.model import Bike, Join, Wire
from brightcore.describing.join_edits import add_join
from brightcore.describing.specs import parse_measure
from brightcore.errors import BrightError, FormatError, Problem
from brightcore.formats.bike_file import MAX_BYTES
from brightcore.formats.border import MOST_TOLD
from brightcore.formats.csv_cells import csv_text

COLUMNS = ("from", "to", "wire")
MOST_ROWS = 10_000
"""Lines that a file may have: far more than a bike can have pins."""

PLUG, PIN = 1, 2
"""Dots in `part.port` and in `part.port.pin`."""

Line = tuple[int, str, str, str]
Group = tuple[str, str, list[Line]]


def dump_joins_csv(bike: Bike) -> str:
    """Return every mated pair of pins as a line; the wire is area and length, "" where there is
    none."""
    return csv_text(COLUMNS, (row for join in bike.joins for row in _rows(join)))


def _rows(join: Join) -> Iterator[tuple[str, str, str]]:
    """Yield the line of every mated pair of pins of a join."""
    measures = ((join.wire.area_mm2, "mm²"), (join.wire.length_m, "m"))
    wire = " / ".join(f"{value:g} {unit}" for value, unit in measures if value)
    for a, b in join.pairs:
        yield f"{join.a_part}.{join.a_port}.{a}", f"{join.b_part}.{join.b_port}.{b}", wire


def read_joins_csv(bike: Bike, text: str | bytes) -> tuple[Bike, int]:
    """Return the bike with the joins of a file added, and how many are new.

    A line names two pins (`part.port.pin`) or two plugs (`part.port`, pins then find each other),
    and optionally the wire: `18 AWG`, `0.75 mm²`, `0.75 mm² / 1.2 m`. Joins that are on the bike
    already are passed over. Raises FormatError naming the line of every problem; nothing is then
    joined.
    """
    problems: list[Problem] = []
    made = 0
    for one, two, lines in _groups(_lines(text), problems):
        try:
            wire = next((w for w in (_wire(line[3]) for line in lines) if w != Wire()), Wire())
            fresh, is_new = _joined(bike, one, two, lines, wire)
        except BrightError as error:
            problems.append(Problem(f"line {lines[0][0]}", str(error)))
            continue
        bike, made = fresh, made + is_new
    if problems:
        raise FormatError(tuple(sorted(problems, key=lambda p: int(p.path.split()[1]))[:MOST_TOLD]))
    return bike, made


def _lines(text: str | bytes) -> list[Line]:
    if len(text) > MAX_BYTES:
        raise FormatError(
            (Problem("line 1", f"the file is larger than {MAX_BYTES // 1_000_000} MB"),)
        )
    try:
        if isinstance(text, bytes):
            plain = text.decode("utf-8-sig")
        else:
            plain = text
        reader = csv.reader(io.StringIO(plain), strict=True)
        head = tuple(c.strip().lower() for c in next(reader, []))
        if head[:2] != COLUMNS[:2] or head not in (COLUMNS, COLUMNS[:2]):
            raise FormatError((Problem("line 1", f"the columns are {', '.join(COLUMNS)}"),))
        rows = []
        for row in islice(reader, MOST_ROWS + 1):
            rows.append((reader.line_num, [c.strip() for c in row]))
    except (UnicodeDecodeError, csv.Error) as error:
        raise FormatError((Problem("line 1", f"this is not CSV: {error}"),)) from None
    if len(rows) > MOST_ROWS:
        raise FormatError(
            (Problem(f"line {rows[-1][0]}", f"more than {MOST_ROWS} connections in one file"),)
        )
    found: list[Line] = []
    for n, row in rows:
        if any(row):
            found.append((n, row[0], row[1] if len(row) > 1 else "", " ".join(row[2:])))
    return found


def _groups(lines: Sequence[Line], problems: list[Problem]) -> list[Group]:
    """Gather lines of pins of the same two plugs, whichever way round they are written."""
    groups: dict[frozenset[str], Group] = {}
    for n, one, two, wire in lines:
        dots = {one.count("."), two.count(".")}
        if dots not in ({PLUG}, {PIN}):
            problems.append(
                Problem(
                    f"line {n}",
                    f"{one or 'nothing'} to {two or 'nothing'}: give two plugs (part.port) or two "
                    "pins (part.port.pin)",
                )
            )
            continue
        if dots == {PLUG}:
            plugs = (one, two)
        else:
            plugs = (one.rpartition(".")[0], two.rpartition(".")[0])
        key = frozenset(plugs)
        if key in groups and dots == {PLUG}:
            problems.append(Problem(f"line {n}", f"{one} with {two} is in the file twice"))
            continue
        a, _, held = groups.setdefault(key, (*plugs, []))
        held.append((n, one, two, wire) if plugs[0] == a else (n, two, one, wire))
    return list(groups.values())


def _wire(words: str) -> Wire:
    """Return the wire of a cell: an area, a length, or both parted by a stroke."""
    area = length = 0.0
    for piece in (p.strip() for p in words.split("/") if p.strip()):
        if (piece.endswith("m") and not piece.endswith("mm")) or piece.lower().endswith(
            (" ft", "cm")
        ):
            length = parse_measure(piece, "m")
        else:
            area = parse_measure(piece, "mm2")
    if area < 0 or length < 0:
        raise FormatError((Problem("wire", f"{words} is less than nothing"),))
    return Wire(area, length)


def _joined(bike: Bike, one: str, two: str, lines: Sequence[Line], wire: Wire) -> tuple[Bike, bool]:
    """Return the bike with one more join, or as it is where it has that join already."""
    if lines[0][1].count(".") == PIN:
        pairs = tuple((a.rpartition(".")[2], b.rpartition(".")[2]) for _, a, b, _ in lines)
    else:
        pairs = ()
    for column in zip(*pairs, strict=True):
        twice = next((p for p in column if column.count(p) > 1), "")
        if twice:
            raise FormatError((Problem("pin", f"{twice} is connected twice"),))
    (a, p), (b, q) = ((end.partition(".")[0], end.partition(".")[2]) for end in (one, two))
    for join in bike.joins_of(a, p):
        same = join.sides() == ((a, p), (b, q))
        if same or join.sides() == ((b, q), (a, p)):
            if same:
                there = join.pairs
            else:
                there = tuple((y, x) for x, y in join.pairs)
            if not pairs or set(pairs) == set(there):
                return bike, False
    return add_join(bike, one, two, wire, pairs), True
