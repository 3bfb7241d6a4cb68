"""The command line on open files."""

import contextlib
import io
import json
import os
import subprocess
import sys
import tempfile
from pathlib import Path
from typing import Any
from unittest import TestCase

from brightcore.__main__ import COMMANDS, main
from brightcore.formats.case_file import case_document
from tests.amount import ALL, PATIENCE_S
from tests.bikes import DEMO, changed
from tests.core.test_formats import CASE

FERN = str(DEMO / "fern.json")
TEASEL = str(DEMO / "teasel.json")
THREE = "three-button-display"
ROOT = Path(__file__).parent.parent.parent


def run(*args: str) -> tuple[int, str, str]:
    """Return (status, stdout, stderr) of one command."""
    out, err = io.StringIO(), io.StringIO()
    with contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
        try:
            status = main(args)
        except SystemExit as stop:
            status = int(stop.code or 0)
    return status, out.getvalue(), err.getvalue()


def saved(raw: Any) -> str:
    """Return the path of a scratch file holding JSON (or plain text)."""
    with tempfile.NamedTemporaryFile("w", suffix=".json", delete=False) as file:
        file.write(raw if isinstance(raw, str) else json.dumps(raw))
    return file.name


GOOD = (
    (("check", FERN), "No findings"),
    (("check", str(DEMO / "otter.json")), "W057"),
    (("match", FERN), "Top speed 38 km/h"),
    (("match", TEASEL), "Main lead"),
    (("set", "throttle", FERN, saved({"supply_v": "5", "rest_v": "4.8"})), "S011 danger"),
    (
        ("set", "speed", FERN, saved({"turns": "3", "rolled_m": "4.66"})),
        "circumference_mm = 1553 mm",
    ),
    (
        ("settings", FERN, "--profile", "display=three-button-display", "--limit", "25"),
        "display P02 = 157.0 cm",
    ),
    (("settings", FERN, "--style", "progressive"), "controller low_cutoff_v"),
    (("keys", "three-button-display", "P06", "41"), "11 presses"),
    (
        ("keys", "three-button-display", "P06", "41", "--held", "P06=40.5", "--at", "P06"),
        "M\n+\nM\n3 presses",
    ),
    (("keys", "three-button-display", "P06", "41", "--at", "P13", "--shown", "9"), "presses"),
    (("schema", "profile"), "bright-circuit/profile"),
    (("derive", FERN), "wheel_circumference_mm = 1571 mm"),
    (("read", FERN, "--list-faults"), "hall_cable.halls_m.a/contact/mid"),
    (("read", FERN, "--list-conditions"), "throttle.grip=full"),
    (("read", FERN, "--list-pins"), "motor.halls.a"),
    (("read", FERN, "--from", "controller.halls.v5", "--to", "controller.halls.gnd"), "4.9"),
    (
        (
            "read",
            FERN,
            "--from",
            "controller.halls.v5",
            "--to",
            "controller.halls.gnd",
            "--fault",
            "pack.inside.bms/open/full",
        ),
        "V",
    ),
    (
        (
            "read",
            FERN,
            "--from",
            "lever_left.plug.signal",
            "--to",
            "lever_left.plug.ground",
            "--condition",
            "out; unplug j-brake-l",
        ),
        "OL",
    ),
    (
        (
            "read",
            FERN,
            "--from",
            "hall_cable.halls_c.a",
            "--to",
            "hall_cable.halls_m.a",
            "--condition",
            "out",
        ),
        "Ω",
    ),
    (
        (
            "netlist",
            TEASEL,
            "--condition",
            "on; throttle.grip=full",
            "--fault",
            "motor.halls.a/dead/full",
        ),
        ".control",
    ),
    (("joins", FERN), "controller.battery.plus"),
    (("joins", FERN, "--add", saved("from,to,wire\n")), "bright-circuit/bike"),
    (("wire", FERN), "First power-up: Controller, front harness with Front harness"),
    (
        ("wire", saved(changed("fern", ("joins.j-lamp", None)))),
        "Connect Controller, lamp with Front lamp",
    ),
    (("sheet", FERN), "Fern, wiring"),
    (("sheet", FERN, "--cards"), "Fern, plugs and pins"),
    (("sheet", FERN, "--ways"), "Front loader: ways of the cables"),
    (("routes", FERN), "1.97 m needed, fork, steering head, down tube, bottom bracket"),
    (("schema", "bike"), "bright-circuit/bike"),
)
BAD = (
    (("check", "/nowhere/at/all.json"), "cannot read"),
    (("check", saved("not json")), "not JSON"),
    (
        ("check", saved(changed("fern", ("parts.pack.spec.series_count", 99)))),
        "$.parts[0].spec.series_count",
    ),
    (("set", "throttle", FERN, saved({"rest_v": "high"})), "$.rest_v"),
    (("set", "throttle", FERN, saved({"subject": "pack"})), "$.subject"),
    (("keys", "three-button-display", "P06", "61"), "P06 is 61"),
    (("keys", "three-button-display", "Q6", "41"), "no parameter"),
    (("keys", "full-controller", "c01", "20"), "has no menu"),
    (("settings", FERN, "--profile", "wing=full-controller"), "no part"),
    (("derive", saved({"format": "x"})), "$.format"),
    (("read", FERN), "--list-pins"),
    (("read", FERN, "--from", "a.b.c", "--to", "pack.main.minus"), "no part"),
    (
        (
            "read",
            FERN,
            "--from",
            "pack.main.plus",
            "--to",
            "pack.main.minus",
            "--condition",
            "sideways",
        ),
        "no control",
    ),
    (
        (
            "read",
            FERN,
            "--from",
            "pack.main.plus",
            "--to",
            "pack.main.minus",
            "--fault",
            "gremlins",
        ),
        "no fault",
    ),
    (("joins", FERN, "--add", saved("from,to\nx.y,z.q\n")), "line 2"),
    (("trace", FERN), "$.format"),
)


class CommandTest(TestCase):
    def test_commands_print_what_they_promise(self) -> None:
        for args, word in GOOD:
            with self.subTest(args):
                status, out, err = run(*args)
                self.assertEqual((status, err), (0, ""))
                self.assertIn(word, out)

    def test_every_command_prints_json(self) -> None:
        for args, _ in GOOD:
            with self.subTest(args):
                json.loads(run(*args, "--json")[1])

    def test_bad_input_ends_with_status_2_and_words_on_stderr(self) -> None:
        for args, word in BAD:
            with self.subTest(args):
                status, out, err = run(*args)
                self.assertEqual((status, out), (2, ""))
                self.assertIn(word, err)
                self.assertNotIn("Traceback", err)

    def test_a_trace_ranks_groups_proposes_and_explains(self) -> None:
        path = saved(case_document(CASE))
        status, out, _ = run("trace", path, "--json")
        found = json.loads(out)
        self.assertEqual(status, 0)
        self.assertEqual(found["status"], "measure")
        self.assertGreater(len(found["suspects"]), 2)
        test = found["next"][0]
        for key in ("title", "condition", "steps", "minutes", "answers", "cautions"):
            self.assertIn(key, test)
        self.assertLessEqual(sum(s["probability"] for s in found["suspects"]), 1.0 + 1e-9)
        example = ROOT / "docs/examples/fern-case.json"
        if ALL:
            self.assertIn("Next, about", run("trace", str(example))[1])
            self.assertEqual(run("trace", str(example), "--json")[1], out)

    def test_the_netlist_runs_in_ngspice(self) -> None:
        out = run("netlist", FERN)[1]
        done = subprocess.run(
            ["ngspice", "-b"], input=out, capture_output=True, text=True, timeout=PATIENCE_S
        )
        self.assertNotIn("rror", done.stdout)
        self.assertIn("n1 = ", done.stdout)

    def test_commands_are_told_in_the_readme(self) -> None:
        text = (ROOT / "README.md").read_text()
        for name in COMMANDS:
            self.assertIn(name, text)

    def test_every_script_can_be_imported(self) -> None:
        """A name that moved broke the benchmarks, and nobody noticed for days."""
        names = sorted(path.stem for path in (ROOT / "scripts").glob("*.py"))
        self.assertGreater(len(names), 10)
        words = f"import django; django.setup(); import {', '.join(names)}"
        done = subprocess.run(
            [sys.executable, "-c", words],
            env=os.environ
            | {
                "PYTHONPATH": f"{ROOT / 'src'}{os.pathsep}{ROOT / 'scripts'}{os.pathsep}{ROOT}",
                "DJANGO_SETTINGS_MODULE": "brightcircuit.settings",
            },
            capture_output=True,
            text=True,
        )
        self.assertEqual(done.returncode, 0, done.stderr[-2000:])

    def test_the_module_runs_as_a_program(self) -> None:
        done = subprocess.run(
            [sys.executable, "-m", "brightcore", "check", "/nowhere"],
            cwd=ROOT / "src",
            capture_output=True,
            text=True,
        )
        self.assertEqual(done.returncode, 2)
        self.assertNotIn("Traceback", done.stderr)
