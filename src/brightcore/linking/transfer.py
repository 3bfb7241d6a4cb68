"""Reading and writing parameters over a line that may fail: what is known afterwards is always
said.

Nothing here retries by itself. A line that drops while a value is written leaves that value unknown
until it is read again; what was not begun stays waiting, and the run goes on from there.
"""

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass

from brightcore.linking.layout import COMMAND, IDLE, RUNNING, SAVE, STATUS, counts, identify, shown
from brightcore.linking.port import (
    LineDroppedError,
    Port,
    RefusedError,
    StillRunningError,
    WrongDeviceError,
)
from brightcore.programming.profile import Parameter, Profile

WAITING, READ, WRITTEN, REFUSED = "waiting", "read", "written", "refused"
OTHER, UNREAD, UNKNOWN = "other", "unread", "unknown"
STATES = {
    WAITING: "not begun",
    READ: "read",
    WRITTEN: "written and read back",
    REFUSED: "refused by the device",
    OTHER: "reads back otherwise",
    UNREAD: "sent; the device does not let it be read back",
    UNKNOWN: "not known: the link dropped while it was written",
}
"""What is known of a value, in words."""

MOST_IN_ONE = 100
"""Registers that are asked for at a time (at most 125 in the protocol's own rules)."""

Left = Callable[[], float]
"""Returns seconds that are left; below zero the run pauses after what it is at."""

Begins = Callable[["Item"], bool]
"""Told of each item before it is touched, so that it can be kept as not known; returns False where
the run was stopped meanwhile: then nothing more goes out."""


def _goes_on(item: "Item") -> bool:
    return True


@dataclass
class Item:
    """One parameter of a run: what was known before, what is to be written, what it shows, and its
    state."""

    code: str
    before: float | None = None
    wanted: float | None = None
    state: str = WAITING
    shown: float | None = None
    words: str = ""

    @property
    def is_left(self) -> bool:
        """Whether the run still has to see to it."""
        return self.state in (WAITING, UNKNOWN)


def require_identity(port: Port, profile: Profile) -> None:
    """Raise WrongDeviceError unless the device on the line is of the profile; LinkError if it is
    silent."""
    found = identify(port)
    if found.word != profile.identity:
        raise WrongDeviceError(
            f"the device on the link says {found.word}, {profile.title} is {profile.identity}"
        )


def require_rest(port: Port) -> None:
    """Raise LinkError while the device is still in a learning stage: nothing is written then."""
    if port.read(STATUS, 1)[0] == RUNNING:
        raise StillRunningError("the device is still in a learning stage: power off, then again")


def read_on(
    port: Port, profile: Profile, items: Sequence[Item], left: Left, begins: Begins = _goes_on
) -> bool:
    """Read what is left of a run; returns whether all is done.

    Raises WrongDeviceError before anything is read, LineDroppedError: items that were not read stay
    as they were.
    """
    waiting = [item for item in items if item.is_left]
    if waiting:
        require_identity(port, profile)
    for run in _runs(profile, waiting):
        if left() < 0 or not begins(run[0]):
            return False
        _read_run(port, profile, run)
    return not any(item.is_left for item in items)


def _read_run(port: Port, profile: Profile, run: Sequence[Item]) -> None:
    """Read registers that lie side by side; where they are refused together, one by one."""
    first = _number(profile.parameter(run[0].code))
    count = _number(profile.parameter(run[-1].code)) - first + 1
    try:
        raw = port.read(first, count)
    except RefusedError as error:
        if len(run) == 1:
            run[0].state, run[0].words = REFUSED, str(error)
            return
        for item in run:
            _read_run(port, profile, [item])
        return
    for item in run:
        parameter = profile.parameter(item.code)
        item.shown = shown(parameter, raw[_number(parameter) - first])
        item.state = READ


def write_on(
    port: Port, profile: Profile, items: Sequence[Item], left: Left, begins: Begins = _goes_on
) -> bool:
    """Write what is left of a run and read every value back; returns whether all is done.

    What is not known from a dropped line is read first. Raises WrongDeviceError before anything is
    written, LineDroppedError at the value that is then unknown.
    """
    if not any(item.is_left for item in items):
        return True
    require_identity(port, profile)
    require_rest(port)
    for item in items:
        if not item.is_left:
            continue
        if left() < 0 or not begins(item):
            return False
        _write_one(port, profile.parameter(item.code), item)
    return True


def _write_one(port: Port, parameter: Parameter, item: Item) -> None:
    assert item.wanted is not None, item.code
    number, raw = _number(parameter), counts(parameter, item.wanted)
    wanted = shown(parameter, raw)
    # The line dropped while this was on its way: it may have arrived. Reading first spares a second
    # write, and shows which it was.
    if item.state == UNKNOWN and (not _read_back(port, parameter, item) or item.shown == wanted):
        item.state = UNREAD if item.shown is None else WRITTEN
        return
    try:
        port.write(number, raw)
    except RefusedError as error:
        item.words = str(error)
        _read_back(port, parameter, item)
        item.state = REFUSED
        return
    except LineDroppedError:
        item.state, item.shown = UNKNOWN, None
        raise
    if not _read_back(port, parameter, item):
        item.state = UNREAD
    else:
        item.state = WRITTEN if item.shown == wanted else OTHER


def _read_back(port: Port, parameter: Parameter, item: Item) -> bool:
    """Read what a device shows for an item now; returns whether it lets itself be read."""
    item.shown = None
    try:
        item.shown = shown(parameter, port.read(_number(parameter), 1)[0])
    except RefusedError as error:
        item.words = item.words or str(error)
    except LineDroppedError:
        item.state = UNKNOWN
        raise
    return item.shown is not None


def save_on_device(
    port: Port, profile: Profile, pause: Callable[[float], None], tries: int = 20
) -> bool:
    """Have the device keep its values when it is switched off; returns whether it said that it has.

    `pause`: waits some seconds. Raises LineDroppedError where it is silent: then all is to be read
    again.
    """
    require_identity(port, profile)
    port.write(COMMAND, SAVE)
    for _ in range(tries):
        status = port.read(STATUS, 1)[0]
        if status not in (IDLE, RUNNING):
            return status == IDLE + 2
        pause(0.1)
    return False


def _number(parameter: Parameter) -> int:
    assert parameter.register is not None, parameter.code
    return parameter.register.number


def _runs(profile: Profile, items: Iterable[Item]) -> list[list[Item]]:
    """Return items in runs of neighbouring registers, none longer than one request may ask for."""
    ordered = sorted(items, key=lambda item: _number(profile.parameter(item.code)))
    runs: list[list[Item]] = []
    for item in ordered:
        number = _number(profile.parameter(item.code))
        last = runs[-1] if runs else []
        near = last and number - _number(profile.parameter(last[-1].code)) == 1
        if near and number - _number(profile.parameter(last[0].code)) < MOST_IN_ONE:
            last.append(item)
        else:
            runs.append([item])
    return runs
