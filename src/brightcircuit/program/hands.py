"""Hands at the stand-in: its throttle, wheel and lever, and its own faults, by its second unit."""

from collections.abc import Mapping
from dataclasses import dataclass, replace

from django.core.exceptions import ValidationError

from brightcircuit.common.guard import require_open
from brightcircuit.common.numbers import whole_number
from brightcircuit.jobs.models import Job
from brightcircuit.link.lines import port_of
from brightcircuit.link.standin_bench import ARGUMENT, BENCH_ABOVE, FAULT, LEVER, SECTOR, THROTTLE
from brightcircuit.program.lines import address_of, line_of
from brightcircuit.program.models import Line
from brightcircuit.shop.models import Person
from brightcore.linking.model import LINE_FAULTS
from brightcore.linking.port import LinkError

LOCAL = ("127.0.0.1", "localhost", "::1")


@dataclass(frozen=True, slots=True)
class BenchSide:
    """What hands do at the stand-in now, and what is wrong with it."""

    throttle: int
    sector: int
    lever: bool
    fault: int
    argument: int

    @property
    def faults(self) -> list[tuple[int, str]]:
        """What can be wrong with it."""
        return list(LINE_FAULTS.items())


def bench_of(line: Line) -> BenchSide | None:
    """Return the bench side of a line, None where it is not the stand-in of this machine."""
    address = address_of(line)
    if address.host not in LOCAL or address.unit > BENCH_ABOVE:
        return None
    try:
        with port_of(replace(address, unit=address.unit + BENCH_ABOVE), line.job_id, "") as port:
            throttle, sector, lever, fault, argument = port.read(THROTTLE, 5)
    except LinkError:
        return None
    return BenchSide(throttle // 10, sector, bool(lever), fault, argument)


def turn_bench(*, actor: Person, job: Job, part: str, values: Mapping[str, str]) -> None:
    """Do at the stand-in what hands would, and switch its faults."""
    require_open(job, actor)
    line = line_of(job, part)
    side = bench_of(line)
    if side is None:
        raise ValidationError("That is not the stand-in of this machine.")
    address = address_of(line)
    wanted = {
        THROTTLE: 10 * min(max(whole_number(values.get("throttle"), side.throttle), 0), 100),
        SECTOR: whole_number(values.get("sector"), side.sector) % 6,
        LEVER: int(values.get("lever") == "on"),
        ARGUMENT: min(max(whole_number(values.get("argument"), 0), 0), 60_000),
        FAULT: whole_number(values.get("fault"), 0),
    }
    if wanted[FAULT] not in LINE_FAULTS:
        raise ValidationError("Choose one of the list.")
    try:
        with port_of(replace(address, unit=address.unit + BENCH_ABOVE), job.pk, str(actor)) as port:
            for number, value in wanted.items():
                port.write(number, value)
    except LinkError as error:
        raise ValidationError(str(error)) from None
