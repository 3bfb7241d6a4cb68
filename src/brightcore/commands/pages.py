"""Commands that write pages of the documentation and the schemas."""

import argparse
import json
from dataclasses import asdict

from brightcore.analysis.rule import page_of
from brightcore.bike.roles import ROLES, mate
from brightcore.commands.files import Out
from brightcore.formats.job_schema import job_schema
from brightcore.formats.profile_file import profile_schema
from brightcore.formats.schema import bike_schema, case_schema, parts_schema
from brightcore.kinds import REGISTRY
from brightcore.matching.rules import RULES as MATCH_RULES
from brightcore.sources import SOURCES
from brightcore.wiring.rules import RULES as WIRING_RULES

FINDINGS_HEAD = """# Findings

Findings of the wiring (`W…`) stand on Arrive, those of matching (`M…`) on Match. Every finding
has a permanent code, severity, words, hint and source. *Danger* findings stand before powered
tests until they are put right or a shop lead accepts them with a reason; that lapses when a value
behind one changes.

This page is written by `./bright core findings`.
"""


def run_findings(_: argparse.Namespace) -> Out:
    """Every rule as a page: code, severity, words, what it looks at, what to do, source."""
    rules = (*WIRING_RULES, *MATCH_RULES)
    text = page_of(rules, {source.id: source.text for source in SOURCES.values()})
    findings = []
    for r in rules:
        findings.append({"code": r.type.code, "severity": r.type.severity, "text": r.type.text})
    data = {"findings": findings}
    return data, [f"{FINDINGS_HEAD}\n{text}".rstrip("\n")]


def run_roles(_: argparse.Namespace) -> Out:
    """Every role of a pin: what it is for, its level, what it mates with."""
    rows = [asdict(role) for role in ROLES]
    lines = [
        "# Roles of pins",
        "",
        (
            "What a contact is for (`bike/roles.py`). Two pins belong on one contact if they are "
            "mates;"
        ),
        "a plain wire takes what its far end has. This page is written by `./bright core roles`.",
        "",
    ]
    lines += [
        "| role | meaning | polarity | level | way | mates with |",
        "|---|---|---|---|---|---|",
    ]
    for role in ROLES:
        mates = ", ".join(
            f"`{other.name}`"
            for other in ROLES
            if mate(role.name, other.name) and role.name != "wire"
        )
        own = mates if role.name != "wire" else "anything"
        lines.append(
            f"| `{role.name}` | {role.meaning} | {role.polarity} | {role.level} | {role.way} "
            f"| {own} |"
        )
    return {"roles": rows}, lines


def run_schema(args: argparse.Namespace) -> Out:
    """JSON Schema of one of the open formats."""
    of_kinds = {"bike": bike_schema, "case": case_schema, "job": job_schema, "parts": parts_schema}
    if args.file == "profile":
        schema = profile_schema()
    else:
        schema = of_kinds[args.file](REGISTRY)
    return schema, [json.dumps(schema, indent=1, ensure_ascii=False)]
