"""The version of the predicting code: a hash of it, so that cached predictions never outlive what
made them."""

import hashlib
from functools import cache
from importlib.resources import files
from importlib.resources.abc import Traversable

PREDICTING = ("physics", "bike", "circuit", "behaviour", "kinds", "simulation")
"""Packages whose code decides what is predicted."""


def _sources(folder: Traversable, path: str) -> list[tuple[str, Traversable]]:
    found = []
    for item in folder.iterdir():
        name = f"{path}/{item.name}"
        if item.is_dir() and item.name != "__pycache__":
            found += _sources(item, name)
        elif item.name.endswith(".py"):
            found.append((name, item))
    return found


@cache
def engine_version() -> str:
    """Return twelve letters that change whenever the code that predicts changes."""
    digest = hashlib.sha256()
    for package in PREDICTING:
        for name, item in sorted(_sources(files("brightcore").joinpath(package), package)):
            digest.update(name.encode())
            digest.update(item.read_bytes())
    return digest.hexdigest()[:12]
