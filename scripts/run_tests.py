"""Run every check and test; the last line is `N passed, M failed`.

Each linter or check counts as one. With names (such as `tests.core.test_units`) only those
tests run, without the other checks. `fast` leaves out what takes long, for a commit; `all` takes
every row of the tables that a usual run samples.
"""

import filecmp
import os
import re
import shutil
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
BIN = Path(sys.executable).parent
ENVIRONMENT = os.environ | {
    "PYTHONPATH": str(ROOT / "src"),
    "PATH": f"{BIN}{os.pathsep}{os.environ['PATH']}",
}
STYLES = ROOT / "src/brightcircuit/static/css/app.css"
SCRIPTS = ("src/brightcircuit/static/js", "tests/scripts")
FORMATTED = (
    "assets/**/*.css",
    "src/brightcircuit/static/js/*.js",
    "tests/browser/*.js",
    "tests/scripts/*.mjs",
    "*.mjs",
)
Result = tuple[int, str]


def run(*command: str) -> Result:
    """Return (status, output) of a command in the project's folder."""
    done = subprocess.run(
        command,
        cwd=ROOT,
        env=ENVIRONMENT,
        stdout=subprocess.PIPE,
        stderr=subprocess.STDOUT,
        text=True,
    )
    return done.returncode, done.stdout


def without_style_tools(tool: str) -> str:
    """Return why a tool of npm cannot be run here, "" where it can; it is installed where
    possible."""
    if not shutil.which("npm"):
        return "skipped: no npm here"
    if not (ROOT / "node_modules/.bin" / tool).exists():
        status, output = run("npm", "ci", "--silent")
        if status:
            return f"skipped: the style tools could not be installed\n{output}"
    return ""


def scripts_formatted() -> Result:
    """Look whether styles and scripts are as Prettier writes them; skipped where there is no
    npm."""
    reason = without_style_tools("prettier")
    if reason:
        return 0, reason
    return run("node_modules/.bin/prettier", "--check", *FORMATTED)


def scripts_linted() -> Result:
    """Look the pages' scripts over with ESLint; skipped where there is no npm."""
    reason = without_style_tools("eslint")
    if reason:
        return 0, reason
    return run("node_modules/.bin/eslint", *SCRIPTS)


def scripts_typed() -> Result:
    """Check the types of the pages' scripts; skipped where there is no npm."""
    reason = without_style_tools("tsc")
    if reason:
        return 0, reason
    return run("node_modules/.bin/tsc", "-p", "jsconfig.json")


def scripts_tested() -> Result:
    """Run the unit tests of the pages' scripts; skipped where there is no npm."""
    reason = without_style_tools("eslint")
    if reason:
        return 0, reason
    return run("node", "--test", "tests/scripts/")


def styles_current() -> Result:
    """Rebuild the style sheet to a scratch file and compare; skipped where there is no npm."""
    reason = without_style_tools("tailwindcss")
    if reason:
        return 0, reason
    with tempfile.TemporaryDirectory() as folder:
        scratch = Path(folder) / "app.css"
        status, output = run(
            "node_modules/.bin/tailwindcss", "-i", "assets/app.css", "-o", str(scratch), "--minify"
        )
        same = status == 0 and filecmp.cmp(scratch, STYLES, shallow=False)
    return (
        (0, "")
        if same
        else (1, f"{STYLES.name} is not what assets/app.css gives: run `npm run build`\n{output}")
    )


def migrations_current() -> Result:
    """Look for models without a migration."""
    return run(sys.executable, "manage.py", "makemigrations", "--check", "--dry-run")


CHECKS: tuple[tuple[str, Callable[[], Result]], ...] = (
    ("lint", lambda: run("ruff", "check", ".")),
    ("format", lambda: run("ruff", "format", "--check", ".")),
    ("templates", lambda: run("djlint", "src", "--lint", "--quiet")),
    ("templates formatted", lambda: run("djlint", "src", "--check")),
    ("styles and scripts formatted", scripts_formatted),
    ("scripts linted", scripts_linted),
    ("types of scripts", scripts_typed),
    ("scripts tested", scripts_tested),
    ("types of the core", lambda: run("mypy")),
    ("import contract", lambda: run("lint-imports")),
    ("migrations current", migrations_current),
    ("styles current", styles_current),
)


QUICK = ("lint", "format", "import contract", "migrations current")
"""Checks of a few seconds."""


def run_checks(quick: bool) -> tuple[int, int]:
    """Run the checks; return (passed, failed)."""
    failed = 0
    checks = [(name, check) for name, check in CHECKS if not quick or name in QUICK]
    for name, check in checks:
        begun = time.monotonic()
        status, output = check()
        failed += status != 0
        note = output.strip() if status or output.startswith("skipped") else ""
        print(
            f"{'FAILED' if status else 'ok':6} {name} ({time.monotonic() - begun:.0f} s)"
            + (f"\n{note}" if note else ""),
            flush=True,
        )
    return len(checks) - failed, failed


def processes() -> int:
    """Return in how many processes tests run: one more than there are cores, as browser tests wait
    often."""
    return min((os.cpu_count() or 2) + 1, 4)


def run_django(names: list[str], quick: bool) -> tuple[int, int]:
    """Run Django's test runner; return (passed, failed)."""
    shutil.rmtree(
        ROOT / "var/test", ignore_errors=True
    )  # a stopped run leaves logs that would spoil the next clone
    command = [
        sys.executable,
        "manage.py",
        "test",
        *names,
        "--noinput",
        "--parallel",
        str(processes()),
        "--shuffle",
        "--testrunner",
        "tests.runner.QuickRunner" if quick else "tests.runner.Runner",
    ]
    with subprocess.Popen(
        command,
        cwd=ROOT,
        env=ENVIRONMENT,
        stdout=subprocess.PIPE,
        stderr=subprocess.STDOUT,
        text=True,
    ) as process:
        assert process.stdout is not None
        lines = []
        for line in process.stdout:
            print(line, end="", flush=True)
            lines.append(line)
    text = "".join(lines)
    ran = sum(int(n) for n in re.findall(r"^Ran (\d+) test", text, re.M))
    bad = sum(int(n) for n in re.findall(r"(?:failures|errors|unexpected successes)=(\d+)", text))
    if process.returncode and not bad:
        bad = 1
    return max(ran - bad, 0), bad


def main() -> int:
    """Run what is asked for; return the exit status."""
    names = sys.argv[1:]
    quick = names == ["fast"]
    if names == ["all"]:
        ENVIRONMENT["BRIGHT_TESTS"] = "all"
    if names in (["fast"], ["all"]):
        names = []
    passed, failed = (0, 0) if names else run_checks(quick)
    more_passed, more_failed = run_django(names or ["tests"], quick)
    passed, failed = passed + more_passed, failed + more_failed
    print(f"{passed} passed, {failed} failed")
    return 1 if failed or not passed else 0


if __name__ == "__main__":
    sys.exit(main())
