"""Put the faults of `mutants.py` into copies of the code, one at a time, and say which the tests
let live.

A test module counts only where it passes on unchanged code: one that fails anyway would notice
everything.

Run by hand: `./bright mutate [WORDS]`; with words only the mutants that contain them. Writes
`docs/mutants.md` when all were tried. Nothing in this folder is changed.
"""

import os
import shutil
import subprocess
import sys
import tempfile
import time
from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from queue import Queue

from mutants import MUTANTS, Mutant

ROOT = Path(__file__).resolve().parent.parent
COPIED = (
    "src",
    "tests",
    "docs",
    "scripts",
    "manage.py",
    "pyproject.toml",
    "README.md",
    "bright",
    "package.json",
)
SCRIPTS = "scripts"
"""Stands among the test modules for the tests of the pages' scripts, which Node.js runs."""

WORKERS = max(1, min(os.cpu_count() or 2, 4))
LEAST_KILLED = 0.92
PAGE = ROOT / "docs" / "mutants.md"


def copy_to(folder: Path) -> None:
    """Copy what tests need."""
    for name in COPIED:
        source = ROOT / name
        if source.is_dir():
            shutil.copytree(source, folder / name, ignore=shutil.ignore_patterns("__pycache__"))
        else:
            shutil.copy2(source, folder / name)
    if (ROOT / "node_modules").is_dir():
        (folder / "node_modules").symlink_to(ROOT / "node_modules")


def notices(folder: Path, module: str) -> bool:
    """Return whether a test module fails in a folder."""
    if module == SCRIPTS:
        command = ("node", "--test", "tests/scripts/")
        return subprocess.run(command, cwd=folder, capture_output=True, check=False).returncode != 0
    application = module.startswith("apps.")
    start = ("manage.py", "test", "--noinput") if application else ("-m", "unittest")
    command = (sys.executable, *start, "--failfast", f"tests.{module}")
    environment = os.environ | {"PYTHONPATH": f"{folder / 'src'}{os.pathsep}{folder}"}
    environment["BRIGHT_DATA"] = str(folder / "var")
    environment["DJANGO_SETTINGS_MODULE"] = "brightcircuit.settings"
    done = subprocess.run(command, cwd=folder, env=environment, capture_output=True, check=False)
    return done.returncode != 0


def sound_modules(folders: "Queue[Path]", wanted: Sequence[Mutant]) -> set[str]:
    """Return the test modules that pass on unchanged code; says which do not."""
    modules = sorted({module for mutant in wanted for module in mutant.tests})

    def passes(module: str) -> bool:
        folder = folders.get()
        try:
            return not notices(folder, module)
        finally:
            folders.put(folder)

    with ThreadPoolExecutor(WORKERS) as pool:
        passed = list(pool.map(passes, modules))
    sound = {module for module, well in zip(modules, passed, strict=True) if well}
    for module in sorted(set(modules) - sound):
        print(f"FAILS UNCHANGED {module}: it counts for nothing", flush=True)
    return sound


def killed_by(folder: Path, mutant: Mutant, sound: set[str]) -> str:
    """Return the sound test module that notices a mutant, "" where none does."""
    path = folder / "src" / mutant.file
    right = path.read_text()
    if right.count(mutant.old) != 1:
        raise ValueError(
            f"{mutant.name}: the text stands {right.count(mutant.old)} times in the file"
        )
    path.write_text(right.replace(mutant.old, mutant.new))
    try:
        return next((m for m in mutant.tests if m in sound and notices(folder, m)), "")
    finally:
        path.write_text(right)


def main() -> int:
    """Try every mutant; return 1 where fewer than `LEAST_KILLED` of them are noticed."""
    wanted = [mutant for mutant in MUTANTS if all(word in mutant.name for word in sys.argv[1:])]
    folders: Queue[Path] = Queue()
    begun = time.monotonic()
    with tempfile.TemporaryDirectory() as scratch:
        for n in range(WORKERS):
            folder = Path(scratch) / str(n)
            folder.mkdir()
            copy_to(folder)
            folders.put(folder)

        sound = sound_modules(folders, wanted)

        def attempt(mutant: Mutant) -> str:
            folder = folders.get()
            try:
                found = killed_by(folder, mutant, sound)
            finally:
                folders.put(folder)
            print(f"{'noticed' if found else 'LIVES  '} {mutant.name} {found}", flush=True)
            return found

        with ThreadPoolExecutor(WORKERS) as pool:
            results = list(pool.map(attempt, wanted))
    alive = [mutant for mutant, found in zip(wanted, results, strict=True) if not found]
    share = 1 - len(alive) / max(len(wanted), 1)
    print(
        f"{len(wanted) - len(alive)} of {len(wanted)} noticed ({share:.0%}), "
        f"{time.monotonic() - begun:.0f} s"
    )
    if len(wanted) == len(MUTANTS):
        write_page(alive)
    return int(share < LEAST_KILLED)


def write_page(alive: list[Mutant]) -> None:
    """Write what was found."""
    lines = [
        "# Mutants",
        "",
        (
            "Written by `./bright mutate`: faults put into the code one at a time "
            "(`scripts/mutants.py`), and"
        ),
        "whether a test notices.",
        "",
        f"{len(MUTANTS) - len(alive)} of {len(MUTANTS)} are noticed. These are not:",
        "",
        *([f"- `{mutant.name}`" for mutant in alive] or ["- none"]),
        "",
    ]
    PAGE.write_text("\n".join(lines))


if __name__ == "__main__":
    raise SystemExit(main())
