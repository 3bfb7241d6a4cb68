"""A discharge log: CSV of time, volts and amps."""

import csv
import io
import math

from brightcore.errors import ReadingError

LOG_COLUMNS = {
    "time_s": ("time_s", "time", "seconds", "s"),
    "voltage_v": ("voltage_v", "voltage", "volts", "v"),
    "current_a": ("current_a", "current", "amps", "a"),
}
"""Names of each column in its first line."""


def read_log(content: bytes) -> dict[str, list[float]]:
    """Return the columns of a discharge log; raises ReadingError naming the line."""
    try:
        rows = list(csv.reader(io.StringIO(content.decode("utf-8-sig"))))
    except (UnicodeDecodeError, csv.Error):
        raise ReadingError("the log is not CSV text") from None
    head = [h.strip().lower() for h in rows[0]] if rows else []
    places = {
        name: next((head.index(o) for o in options if o in head), -1)
        for name, options in LOG_COLUMNS.items()
    }
    missing = [name for name, place in places.items() if place < 0]
    if missing:
        raise ReadingError(
            f"the first line must name the columns {', '.join(LOG_COLUMNS)}; "
            f"{', '.join(missing)} is missing"
        )
    found: dict[str, list[float]] = {name: [] for name in LOG_COLUMNS}
    for number, row in enumerate(rows[1:], 2):
        for name, place in places.items():
            try:
                value = float(row[place])
            except (ValueError, IndexError):
                value = math.nan
            if not math.isfinite(value):
                raise ReadingError(f"line {number}: {name} is not a number")
            found[name].append(value)
    return found
