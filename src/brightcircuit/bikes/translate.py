"""Rows to core objects and back."""

import hashlib
from functools import lru_cache

from brightcircuit.bikes.models import Revision
from brightcore.bike.model import Bike as CoreBike
from brightcore.formats.bike_file import load_bike


def core_bike(revision: Revision) -> CoreBike:
    """Return the core description of a revision."""
    return _parsed(revision.document)


@lru_cache(maxsize=64)
def _parsed(document: str) -> CoreBike:
    return load_bike(document)


def document_hash(text: str) -> str:
    """Return the SHA-256 of a canonical document."""
    return hashlib.sha256(text.encode()).hexdigest()
