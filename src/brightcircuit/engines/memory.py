"""Memory given back to the machine after heavy work."""

import ctypes
from contextlib import suppress


def give_back() -> None:
    """Give memory that was freed back to the machine, where its C library can do that.

    Making the predictions of a bike takes ten times what they hold in the end, and the GNU C
    library keeps the rest for later: a server that has prepared eight bikes would keep 100 MB for
    nothing.
    """
    with suppress(OSError, AttributeError):
        ctypes.CDLL(None).malloc_trim(0)
