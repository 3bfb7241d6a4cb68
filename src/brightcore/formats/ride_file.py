"""Ride logs in: GPX 1.1 and CSV; every problem is named by its place."""

import math
from datetime import datetime

import gpxpy
from gpxpy.gpx import GPXException, GPXTrackPoint

from brightcore.errors import FormatError, Problem
from brightcore.formats.csv_cells import csv_rows
from brightcore.procedure.ride import RideLog, Sample

MAX_BYTES = 8_000_000
MOST_SAMPLES, MOST_PROBLEMS = 100_000, 12

MOST_PLACES, MOST_TAGS = 50_000, 500_000
"""Places and tags of a GPX that are read: fourteen hours of one place a second, less where each
holds much else. A place takes the reader 0.07 ms, so that the longest file takes some seconds."""

COLUMNS: dict[str, tuple[str, ...]] = {
    "seconds": ("time", "time_s", "seconds", "s"),
    "lat": ("lat", "latitude"),
    "lon": ("lon", "lng", "longitude"),
    "speed_kmh": ("speed", "speed_kmh", "km/h"),
    "volts": ("volts", "voltage", "voltage_v", "v"),
    "amps": ("amps", "current", "current_a", "a"),
    "motor_c": ("temperature", "motor_c", "temp", "°c"),
}
"""Names of each column in the first line of a CSV; only the time is needed."""

LIMITS = {
    "lat": (-90.0, 90.0),
    "lon": (-180.0, 180.0),
    "speed_kmh": (0.0, 200.0),
    "volts": (0.0, 150.0),
    "amps": (-500.0, 500.0),
    "motor_c": (-60.0, 300.0),
}


def read_ride(content: bytes, name: str) -> RideLog:
    """Return the ride of a GPX or CSV file, by its name; raises FormatError."""
    if len(content) > MAX_BYTES:
        words = (
            f"the file is {len(content) / 1e6:.1f} MB; up to {MAX_BYTES // 1_000_000} MB "
            "can be read"
        )
        raise FormatError((Problem("$", words),))
    try:
        text = content.decode("utf-8-sig")
    except UnicodeDecodeError:
        raise FormatError((Problem("$", "this is not UTF-8 text"),)) from None
    log = _csv(text) if name.lower().endswith(".csv") else _gpx(text)
    if len(log.samples) < 2:
        raise FormatError((Problem("$", "it holds no ride: fewer than two moments with a time"),))
    return log


def _gpx(text: str) -> RideLog:
    if "<!DOCTYPE" in text or "<!ENTITY" in text:
        raise FormatError((Problem("$", "a GPX file has no document type of its own"),))
    for mark, most, what in (("<trkpt", MOST_PLACES, "places"), ("<", MOST_TAGS, "tags")):
        if text.count(mark) > most:
            words = f"it holds more than {most} {what}: cut it to the ride that is looked at"
            raise FormatError((Problem("$", words),))
    try:
        found = gpxpy.parse(text)
    except (GPXException, ValueError, AttributeError, TypeError) as error:
        raise FormatError(
            (Problem("$", f"is no GPX that can be read: {str(error)[:120]}"),)
        ) from None
    segments = []
    for track in found.tracks:
        for segment in track.segments:
            segments.append(segment)
    points: list[GPXTrackPoint] = [point for segment in segments for point in segment.points]
    timed = [(point, point.time) for point in points if point.time is not None]
    if not timed:
        raise FormatError((Problem("$", "no place of it has a time"),))
    every = len(timed)
    timed = [(p, when) for p, when in timed if abs(p.latitude) <= 90 and abs(p.longitude) <= 180]
    wild = every - len(timed)
    if not timed:
        raise FormatError((Problem("$", "no place of it is on the earth"),))
    untimed = len(points) - every
    if untimed:
        flags = [f"{untimed} places have no time: left out"]
    else:
        flags = []
    if wild:
        flags.append(f"{wild} places are not on the earth: left out")
    began = timed[0][1]
    rows = []
    for p, when in timed:
        rows.append((_since(began, when), Sample(0.0, p.latitude, p.longitude)))
    return RideLog(began, _in_order(rows, flags), tuple(flags))


def _since(began: datetime, when: datetime) -> float:
    """Return seconds between two times, not a number where one has a time zone and the other
    none."""
    if (began.tzinfo is None) != (when.tzinfo is None):
        return math.nan
    return (when - began).total_seconds()


def _in_order(rows: list[tuple[float, Sample]], flags: list[str]) -> tuple[Sample, ...]:
    """Return samples with their seconds, those left out whose clock steps back."""
    kept: list[Sample] = []
    back = 0
    for seconds, s in rows[:MOST_SAMPLES]:
        if not math.isfinite(seconds) or (kept and seconds <= kept[-1].seconds):
            back += 1
            continue
        kept.append(Sample(seconds, s.lat, s.lon, s.speed_kmh, s.volts, s.amps, s.motor_c))
    if back:
        flags.append(f"The clock steps back or stands at {back} places: left out")
    if len(rows) > MOST_SAMPLES:
        flags.append(f"Only the first {MOST_SAMPLES} moments are used")
    return tuple(kept)


def _csv(text: str) -> RideLog:
    rows = csv_rows(text, MOST_SAMPLES + 2)  # the heading, and one more to know of the rest
    places = _places(rows[0] if rows else [])
    problems: list[Problem] = []
    found: list[tuple[float, Sample]] = []
    began: datetime | None = None
    for number, row in enumerate(rows[1:], 2):
        if not any(cell.strip() for cell in row):
            continue
        try:
            when = _when(_cell(row, places["seconds"]))
            sample = _sample(row, places)
        except ValueError as error:
            problems.append(Problem(f"line {number}", str(error)))
            if len(problems) == MOST_PROBLEMS:
                break
            continue
        if isinstance(when, float):
            found.append((when, sample))
            continue
        began = began or when
        found.append((_since(began, when), sample))
    if problems:
        raise FormatError(tuple(problems))
    flags: list[str] = []
    samples = _in_order(found, flags)
    return RideLog(began, samples, tuple(flags))


def _places(first: list[str]) -> dict[str, int]:
    """Return where each column stands; raises FormatError where no time or nothing else is
    named."""
    head = [cell.strip().lower() for cell in first]
    places = {}
    for name, options in COLUMNS.items():
        places[name] = next((head.index(option) for option in options if option in head), -1)
    if (
        places["seconds"] < 0
        or max(place for name, place in places.items() if name != "seconds") < 0
    ):
        words = (
            "the first line must name time, and lat and lon, speed, volts and amps, or temperature"
        )
        raise FormatError((Problem("line 1", words),))
    return places


def _sample(row: list[str], places: dict[str, int]) -> Sample:
    values = {}
    for n, place in places.items():
        if n != "seconds":
            values[n] = _value(n, _cell(row, place))
    return Sample(0.0, **values)


def _cell(row: list[str], place: int) -> str:
    if 0 <= place < len(row):
        return row[place].strip()
    return ""


def _when(text: str) -> float | datetime:
    try:
        return float(text)
    except ValueError:
        pass
    try:
        return datetime.fromisoformat(text)
    except ValueError:
        raise ValueError(
            f"{text[:40]!r} is no time: seconds, or such as 2026-11-26T14:05:00+01:00"
        ) from None


def _value(name: str, text: str) -> float | None:
    if not text:
        return None
    try:
        value = float(text)
    except ValueError:
        raise ValueError(f"{name} {text[:20]!r} is not a number") from None
    low, high = LIMITS[name]
    if not low <= value <= high:
        raise ValueError(f"{name} {value:g} must lie from {low:g} to {high:g}")
    return value
