"""CSV out and in: one place that keeps a spreadsheet from taking a cell for a formula."""

import csv
import io
from collections.abc import Iterable, Sequence
from itertools import islice

from brightcore.errors import FormatError, Problem

FORMULA_SIGNS = ("=", "+", "-", "@", "\t", "\r")
"""A cell that begins with one of these is taken for a formula (OWASP, CSV injection, from
memory)."""

QUOTE = "'"

Cell = str | int | float


def _is_number(text: str) -> bool:
    try:
        float(text)
    except ValueError:
        return False
    return True


def safe_cell(value: Cell) -> str:
    """Return a cell that no spreadsheet takes for a formula; numbers stay as they are.

    >>> safe_cell("=1+1"), safe_cell("-0.3"), safe_cell("-cmd")
    ("'=1+1", '-0.3', "'-cmd")
    """
    text = str(value)
    # Some spreadsheets drop the blanks before it, and then take it for a formula all the same.
    if text.lstrip(" ").startswith(FORMULA_SIGNS) and not _is_number(text):
        return QUOTE + text
    return text


def plain_cell(text: str) -> str:
    """Return a cell as it was before `safe_cell`.

    >>> plain_cell("'=1+1"), plain_cell("it's")
    ('=1+1', "it's")
    """
    if text.startswith(QUOTE) and text[1:].lstrip(" ").startswith(FORMULA_SIGNS):
        return text[1:]
    return text


def csv_text(head: Sequence[str], rows: Iterable[Iterable[Cell]]) -> str:
    """Return a CSV table, every cell safe."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(head)
    writer.writerows([safe_cell(cell) for cell in row] for row in rows)
    return out.getvalue()


def csv_rows(text: str, most: int | None = None, mark: str = ",") -> list[list[str]]:
    """Return the rows of a CSV text, line ends of any kind, up to `most` of them; `mark` stands
    between cells.

    Raises FormatError where it is no CSV.
    """
    try:
        # Line by line, so that nothing beyond the rows wanted is taken apart.
        return list(islice(csv.reader(io.StringIO(text, newline=None), delimiter=mark), most))
    except csv.Error as error:
        raise FormatError((Problem("$", f"is no CSV that can be read: {error}"),)) from None
