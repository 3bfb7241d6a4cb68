"""What a line to a device can do, and how it fails. The lines themselves are of the application."""

from typing import Protocol

from brightcore.errors import BrightError


class LinkError(BrightError):
    """Something between here and the device."""


class LineDroppedError(LinkError):
    """No answer: what was being written may have arrived or not."""


class RefusedError(LinkError):
    """The device has answered that it will not."""


class WrongDeviceError(LinkError):
    """Another device is on the line than was said."""


class StillRunningError(LinkError):
    """The device is at something that was begun before: a learning stage that nobody ended."""


class Port(Protocol):
    """A line to one device. Registers hold 16 bits; both raise LineDroppedError and
    RefusedError."""

    def read(self, number: int, count: int) -> list[int]:
        """Return `count` registers from `number` on; at most 100."""

    def write(self, number: int, value: int) -> None:
        """Write one register."""
