"""Lets tests import the benchmarks, which are started as scripts."""

import sys
from pathlib import Path


def strangers() -> None:
    """Make the package of the benchmark by strangers importable."""
    here = str(Path(__file__).parent)
    if here not in sys.path:
        sys.path.append(here)
