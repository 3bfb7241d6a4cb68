"""The command about instruments of Set: readings in, what they mean out."""

import argparse
import json

from brightcore.commands.files import Out, read_text
from brightcore.errors import FormatError, Problem
from brightcore.formats.bike_file import load_bike
from brightcore.setting import INSTRUMENTS, instrument
from brightcore.setting.contract import next_step, read_all


def run_set(args: argparse.Namespace) -> Out:
    """What readings of an instrument mean."""
    bike = load_bike(read_text(args.file))
    item = instrument(args.instrument)
    subjects = item.subjects(bike)
    raw = _readings(args.readings)
    subject = str(raw.pop("subject", subjects[0].id if subjects else ""))
    if subject not in {s.id for s in subjects}:
        words = ", ".join(s.id or "the bike" for s in subjects) or "nothing on this bike"
        raise FormatError((Problem("$.subject", f"{subject!r} is none of {words}"),))
    typed = {name: str(value) for name, value in raw.items()}
    found = read_all(item.fields(bike, subject, typed), typed)
    problems = [Problem(f"$.{name}", words) for name, words in found.unread.items()]
    if problems:
        raise FormatError(tuple(problems))
    verdict = item.judge(bike, subject, found, typed, {})
    following = next_step(item.steps(bike, subject, typed), found)
    data = {
        "instrument": item.key,
        "subject": subject,
        "state": verdict.state,
        "title": verdict.title,
        "questioned": found.odd,
        "findings": [
            {"code": f.code, "severity": f.severity, "text": f.text, "change": f.change}
            for f in verdict.findings
        ],
        "values": [{"name": v.name, "value": v.value, "unit": v.unit} for v in verdict.values],
        "next": following.title if following else "",
    }
    lines = [f"{verdict.state}: {verdict.title}"]
    lines += [f"not used: {words}" for words in found.odd.values()]
    for f in verdict.findings:
        lines.append(f"{f.code} {f.severity:7} {f.text}\n             {f.change}")
    for v in verdict.values:
        lines.append(f"{v.name} = {v.value:g} {v.unit}  ({v.words})")
    lines += [f"Next: {following.title}"] if following else []
    return data, lines


def _readings(path: str) -> dict[str, object]:
    try:
        raw = json.loads(read_text(path))
    except json.JSONDecodeError as error:
        raise FormatError((Problem(f"line {error.lineno}", f"is no JSON: {error.msg}"),)) from None
    if not isinstance(raw, dict):
        raise FormatError((Problem("$", 'readings are an object, such as {"rest_v": "0.85"}'),))
    return raw


KEYS = tuple(item.key for item in INSTRUMENTS)
