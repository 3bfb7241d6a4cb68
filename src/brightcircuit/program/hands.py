"""Hands at the stand-in: its throttle, wheel and lever, and its own faults, by its second unit."""

from collections.abc import Mapping
from dataclasses import replace

from django.core.exceptions import ValidationError

from brightcircuit.common.guard import require_open
from brightcircuit.common.numbers import whole_number
from brightcircuit.jobs.models import Job
from brightcircuit.jobs.safety import require_safe
from brightcircuit.link.lines import port_of
from brightcircuit.link.reach import is_standin
from brightcircuit.link.standin_bench import ARGUMENT, BENCH_ABOVE, FAULT, LEVER, SECTOR, THROTTLE
from brightcircuit.program.lines import address_of, line_of
from brightcircuit.program.models import Line
from brightcircuit.shop.models import Person
from brightcore.linking.model import LINE_FAULTS
from brightcore.linking.port import LinkError


def has_hands(line: Line) -> bool:
    """Return whether a line leads to the stand-in that this installation started."""
    try:
        return is_standin(address_of(line))
    except ValidationError:
        return False


def turn_bench(*, actor: Person, job: Job, part: str, values: Mapping[str, str]) -> None:
    """Do at the stand-in what hands would, and switch its faults; what is not said stays."""
    require_open(job, actor)
    require_safe(job)
    line = line_of(job, part)
    if not has_hands(line):
        raise ValidationError("That is not the stand-in of this installation.")
    address = address_of(line)
    wanted = {
        LEVER: int(values.get("lever") == "on"),
        ARGUMENT: min(max(whole_number(values.get("argument"), 0), 0), 60_000),
        FAULT: whole_number(values.get("fault"), 0),
    }
    if values.get("throttle"):
        wanted[THROTTLE] = 10 * min(max(whole_number(values.get("throttle"), 0), 0), 100)
    if values.get("sector"):
        wanted[SECTOR] = whole_number(values.get("sector"), 0) % 6
    if wanted[FAULT] not in LINE_FAULTS:
        raise ValidationError("Choose one of the list.")
    try:
        with port_of(replace(address, unit=address.unit + BENCH_ABOVE), job.pk, str(actor)) as port:
            for number, value in wanted.items():
                port.write(number, value)
    except LinkError as error:
        raise ValidationError(str(error)) from None
