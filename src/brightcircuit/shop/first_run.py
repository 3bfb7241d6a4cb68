"""The first page of a new shop: whom it lets make the first shop lead.

Somebody at the machine itself needs no code; from elsewhere, or behind a proxy, the code counts
that was printed when the server started. The code lives in the data folder until it has been used.
"""

import secrets
from pathlib import Path

from django.conf import settings
from django.http import HttpRequest

CODE_FILE = "first-run-code"
LOCAL = ("127.0.0.1", "::1")
LOCAL_NAMES = ("localhost", "127.0.0.1", "[::1]")
SIGNS = "abcdefghjkmnpqrstuvwxyz23456789"
"""Without those that are read for one another."""


def _file() -> Path:
    return Path(settings.DATA) / CODE_FILE


def code() -> str:
    """Return the one-time code, made where there is none."""
    path = _file()
    if not path.exists():
        path.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
        path.touch(mode=0o600)
        path.write_text(
            "-".join("".join(secrets.choice(SIGNS) for _ in range(4)) for _ in range(3))
        )
    return path.read_text()


def forget_code() -> None:
    """Throw the code away: there is a shop lead."""
    _file().unlink(missing_ok=True)


def is_right(typed: str) -> bool:
    """Return whether a typed code is the one that was printed."""
    wanted = code().replace("-", "")
    return secrets.compare_digest(
        "".join(c for c in typed.lower() if c.isalnum()).encode(), wanted.encode()
    )


def is_local(request: HttpRequest) -> bool:
    """Return whether a request comes from the machine itself, by its own name and through no
    proxy."""
    if settings.TRUSTED_PROXY or "X-Forwarded-For" in request.headers:
        return False
    return request.META.get("REMOTE_ADDR") in LOCAL and is_own_name(request.get_host())


def is_own_name(host: str) -> bool:
    """Return whether a host, with or without its port, is a name that only this machine has for
    itself.

    >>> [is_own_name(host) for host in ("localhost:8000", "127.0.0.1", "[::1]:80", "shop.lan")]
    [True, True, True, False]
    """
    name = host
    port = host.rpartition(":")[2]
    if port.isdecimal() and port != host:
        name = host.removesuffix(f":{port}")
    return name in LOCAL_NAMES or name.startswith("127.")
