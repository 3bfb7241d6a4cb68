"""Command line on open files: trace, check, derive, joins, keys, match, netlist, read, roles,
routes, schema, set, settings, sheet, wire, and findings.

A bad file prints every problem with its JSON path on stderr and ends with status 2.
"""

import argparse
import json
import os
import sys
from collections.abc import Callable, Sequence

from brightcore.circuit.conditions import Condition
from brightcore.commands.bikes import (
    run_check,
    run_derive,
    run_joins,
    run_match,
    run_routes,
    run_sheet,
    run_wire,
)
from brightcore.commands.files import Out
from brightcore.commands.pages import run_findings, run_roles, run_schema
from brightcore.commands.programming import STYLE_KEYS, run_keys, run_settings
from brightcore.commands.readings import run_netlist, run_read, run_trace
from brightcore.commands.settings import KEYS, run_set
from brightcore.errors import BrightError, FormatError

COMMANDS: dict[str, Callable[[argparse.Namespace], Out]] = {
    "trace": run_trace,
    "check": run_check,
    "derive": run_derive,
    "match": run_match,
    "netlist": run_netlist,
    "read": run_read,
    "joins": run_joins,
    "wire": run_wire,
    "sheet": run_sheet,
    "routes": run_routes,
    "set": run_set,
    "settings": run_settings,
    "keys": run_keys,
    "schema": run_schema,
    "findings": run_findings,
    "roles": run_roles,
}


def parser() -> argparse.ArgumentParser:
    """Return the argument parser of all commands."""
    top = argparse.ArgumentParser(prog="brightcore", description=__doc__)
    commands = top.add_subparsers(dest="command", required=True)
    for name, run in COMMANDS.items():
        sub = commands.add_parser(name, help=run.__doc__)
        if name == "set":
            sub.add_argument("instrument", choices=KEYS)
            sub.add_argument("file", help="a bike file")
            sub.add_argument("readings", help="JSON: readings by field as typed, options, subject")
        elif name == "schema":
            sub.add_argument("file", choices=("bike", "case", "job", "parts", "profile"))
        elif name == "keys":
            sub.add_argument("file", help="id of a shipped profile, or a profile file")
            sub.add_argument("code", help="the parameter, by the code in its menu")
            sub.add_argument("value", help="what it is to be set to")
            sub.add_argument("--held", action="append", default=[], help="CODE=VALUE as stored now")
            sub.add_argument(
                "--at", default="", help="the code that the display shows; closed without"
            )
            sub.add_argument(
                "--shown", default="", help="the value that blinks, if one is being changed"
            )
        elif name not in ("findings", "roles"):
            sub.add_argument("file", help="a case file" if name == "trace" else "a bike file")
        sub.add_argument("--json", action="store_true", help="print JSON")
        if name in ("netlist", "read"):
            sub.add_argument("--fault", default="", help="id of a fault, see read --list-faults")
            sub.add_argument(
                "--condition", default=Condition().id, help="such as 'on; throttle.grip=full'"
            )
        if name == "settings":
            sub.add_argument(
                "--profile", action="append", default=[], help="PART=PROFILE, id or file"
            )
            sub.add_argument(
                "--limit", type=float, default=0.0, help="speed at which help ends, km/h"
            )
            sub.add_argument(
                "--style", choices=STYLE_KEYS, default=STYLE_KEYS[0], help="of assist levels"
            )
        if name == "joins":
            sub.add_argument("--add", default="", help="a CSV file: from, to, wire")
        if name == "sheet":
            sub.add_argument(
                "--cards", action="store_true", help="cards of the plugs instead of the drawing"
            )
            sub.add_argument(
                "--ways", action="store_true", help="map of the frame instead of the drawing"
            )
        if name == "read":
            sub.add_argument(
                "--from", dest="red", default="", help="pin of the red probe, part.port.pin"
            )
            sub.add_argument("--to", dest="black", default="", help="pin of the black probe")
            for what in ("faults", "conditions", "pins"):
                sub.add_argument(f"--list-{what}", action="store_true")
    return top


def main(argv: Sequence[str] | None = None) -> int:
    """Run one command; return the exit status."""
    args = parser().parse_args(argv)
    try:
        data, lines = COMMANDS[args.command](args)
    except FormatError as error:
        for problem in error.problems:
            print(problem, file=sys.stderr)
        return 2
    except BrightError as error:
        print(error, file=sys.stderr)
        return 2
    if args.json:
        text = json.dumps(data, ensure_ascii=False, indent=1)
    else:
        text = "\n".join(lines)
    try:
        print(text, flush=True)
    except BrokenPipeError:
        os.dup2(
            os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno()
        )  # who read it has seen enough
    return 0


if __name__ == "__main__":
    sys.exit(main())
