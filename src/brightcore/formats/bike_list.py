"""A list of bikes as CSV: what a shop has written down of them, a template for each to start
from."""

from dataclasses import dataclass, replace

from brightcore.bike.model import Bike
from brightcore.describing.patterns import PATTERNS, make_pattern
from brightcore.errors import FormatError, Problem
from brightcore.formats.csv_cells import csv_rows

COLUMNS = ("label", "frame number", "template", "notes")
MOST_ROWS = 1000
LABEL_LENGTH, FRAME_LENGTH, NOTES_LENGTH = 120, 80, 300


@dataclass(frozen=True, slots=True)
class ListedBike:
    """A bike of a list, described by its template."""

    bike: Bike
    frame_number: str


def read_bike_list(text: str) -> tuple[ListedBike, ...]:
    """Return the bikes of a CSV text with a heading line; comma, semicolon or tab between the
    columns.

    `label` and `template` (a pattern's id or title) are needed. Raises FormatError with every line
    that is wrong.
    """
    text = text.lstrip("\ufeff")
    first = text.partition("\n")[0]
    mark = max(",;\t", key=first.count)
    # One row more than may be: described one by one, a list of thousands would fill the memory
    # before it was refused.
    rows = csv_rows(text, MOST_ROWS + 2, mark)
    if len(rows) > MOST_ROWS + 1:
        raise FormatError((Problem("file", f"more than {MOST_ROWS} rows: split the list"),))
    if rows:
        head = [name.strip().lower().replace("_", " ") for name in rows[0]]
    else:
        head = []
    missing = [name for name in ("label", "template") if name not in head]
    if missing:
        words = " and ".join(missing)
        raise FormatError(
            (Problem("line 1", f"needs the columns {', '.join(COLUMNS)}; {words} missing"),)
        )
    strange = [name for name in head if name and name not in COLUMNS]
    problems = []
    for name in strange:
        problems.append(Problem("line 1", f"column {name!r} is not known"))
    found: list[ListedBike] = []
    for number, row in enumerate(rows[1:], 2):
        if not any(cell.strip() for cell in row):
            continue
        cells = dict(zip(head, (cell.strip() for cell in row), strict=False))
        wrong = _problems(cells)
        if len(row) > len(head):
            wrong.append(
                f"{len(row)} columns, the heading has {len(head)}: quote what holds a {mark!r}"
            )
        problems += [Problem(f"line {number}", words) for words in wrong]
        if not wrong:
            found.append(_listed(cells))
    if not found and not problems:
        problems.append(Problem("file", "no bikes below the heading"))
    if problems:
        raise FormatError(tuple(problems))
    return tuple(found)


def _pattern(words: str) -> str | None:
    plain = words.lower()
    return next((id for id, (title, _) in PATTERNS.items() if plain in (id, title.lower())), None)


def _problems(cells: dict[str, str]) -> list[str]:
    found = []
    if not cells.get("label"):
        found.append("label: missing")
    if _pattern(cells.get("template", "")) is None:
        found.append(f"template: {cells.get('template', '')!r} is none of {', '.join(PATTERNS)}")
    for name, most in (
        ("label", LABEL_LENGTH),
        ("frame number", FRAME_LENGTH),
        ("notes", NOTES_LENGTH),
    ):
        if len(cells.get(name, "")) > most:
            found.append(f"{name}: longer than {most} signs")
    return found


def _listed(cells: dict[str, str]) -> ListedBike:
    bike = make_pattern(_pattern(cells["template"]) or "", cells["label"])
    info = replace(
        bike.info, description=cells.get("notes", ""), frame_number=cells.get("frame number", "")
    )
    return ListedBike(replace(bike, info=info), info.frame_number)
