"""Numbers from addresses and forms."""

MOST_DIGITS = 12
"""Longer numbers are none that this application knows."""


def whole_number(text: str | None, default: int) -> int:
    """Return the whole number in a text, or a default where it is none.

    >>> whole_number("12", 0), whole_number("²", 0), whole_number("9" * 40, 1)
    (12, 0, 1)
    >>> whole_number(None, -1)
    -1
    """
    plain = (text or "").strip()
    fits = plain.isascii() and plain.isdigit() and len(plain) <= MOST_DIGITS
    if fits:
        return int(plain)
    return default
