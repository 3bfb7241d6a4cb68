"""The line to a device: its row, its address, and what can be reached over it."""

from django.core.exceptions import ValidationError

from brightcircuit.jobs.models import Job
from brightcircuit.link.reach import reached
from brightcircuit.link.transport import Address, AddressError, read_address
from brightcircuit.program.models import Line
from brightcircuit.program.queries import Device, Row
from brightcore.programming.profile import Profile


def line_of(job: Job, part: str) -> Line:
    """Return the line of a device; raises ValidationError where it was not connected."""
    found = job.lines.filter(part=part).first()
    if found is None:
        raise ValidationError("Connect it first.")
    return found


def address_of(line: Line) -> Address:
    """Return the address of a line; raises ValidationError where it may not be reached any more."""
    try:
        return reached(read_address(line.address))
    except AddressError as error:
        raise ValidationError(capital(str(error))) from None


def linked(device: Device) -> list[Row]:
    """Return the parameters that can be reached over a link."""
    return [row for row in device.rows if row.parameter.register is not None]


def profile_of(device: Device) -> Profile:
    """Return the profile of a device that is linked; one without is refused."""
    if device.profile is None or not device.profile.identity:
        raise ValidationError("Its profile has no link.")
    return device.profile


def capital(words: str) -> str:
    """Return words as they begin a sentence."""
    return words[:1].upper() + words[1:]
