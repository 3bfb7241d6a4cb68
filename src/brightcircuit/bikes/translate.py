"""Rows to core objects and back."""

import hashlib
from functools import lru_cache

from brightcircuit.bikes.models import Revision
from brightcore.analysis.bike import analysis_of
from brightcore.bike.measured import as_measured
from brightcore.bike.model import Bike as CoreBike
from brightcore.circuit.netlist import Circuit
from brightcore.formats.bike_file import load_bike


def core_bike(revision: Revision) -> CoreBike:
    """Return the core description of a revision."""
    return _parsed(revision.document)


def worked_bike(revision: Revision) -> CoreBike:
    """Return the bike of a revision as worked with: measured values stand in for described ones."""
    return as_measured(core_bike(revision))


def circuit_of(bike: CoreBike) -> Circuit:
    """Return the circuit of a bike, from memory where it was made before.

    Raises BrightError where it makes none.
    """
    return analysis_of(bike).circuit


def parse_document(text: str) -> CoreBike:
    """Return the bike of a document, from memory where it was read before; raises FormatError."""
    return _parsed(text)


@lru_cache(maxsize=64)
def _parsed(document: str) -> CoreBike:
    return load_bike(document)


def document_hash(text: str) -> str:
    """Return the SHA-256 of a canonical document."""
    return hashlib.sha256(text.encode()).hexdigest()
