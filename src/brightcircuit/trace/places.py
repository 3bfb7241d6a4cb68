"""Where readings of Trace are taken, as dangers name it: a good reading there ends what stood."""

from brightcore.tracing.evidence import Evidence
from brightcore.tracing.tests import Test


def place_of(item: Evidence) -> str:
    """Return the place at which a reading was taken."""
    return _place(item.kind, item.red, item.black)


def place_of_test(test: Test) -> str:
    """Return the place at which a test reads."""
    return _place(test.kind, test.red, test.black)


def _place(kind: str, red: str, black: str) -> str:
    return f"trace:{kind}:{red}:{black}"
