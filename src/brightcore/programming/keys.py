"""The menu of a device as a machine, and the fewest presses from where it stands to a stored
value."""

from collections import deque
from collections.abc import Iterator, Mapping
from dataclasses import asdict, dataclass, replace

from brightcore.errors import BrightError
from brightcore.programming.profile import Parameter, Profile

CLOSED, GROUPS, BROWSE, EDIT = "closed", "groups", "browse", "edit"
MOST_STATES = 60_000


class NoWayError(BrightError):
    """No presses lead there."""


@dataclass(frozen=True, slots=True)
class Place:
    """Where a menu stands: closed, among groups, among parameters, or in one with a value being
    changed.

    `group` and `item` count from 0; `value` counts steps above the parameter's least, in edit
    alone.
    """

    at: str = CLOSED
    group: int = 0
    item: int = 0
    value: int = 0


@dataclass(frozen=True, slots=True)
class Press:
    """A key pressed some times in a row."""

    key: str
    times: int

    @property
    def words(self) -> str:
        """The presses as said: `+ × 19`."""
        if self.times == 1:
            return self.key
        return f"{self.key} × {self.times}"


class Machine:
    """The menu of one profile with what is stored now, by code, in shown units."""

    def __init__(self, profile: Profile, stored: Mapping[str, float]) -> None:
        self.profile = profile
        self.menu = profile.menu
        self.rows = [
            [p for p in profile.parameters if self.menu.kind != "tree" or p.group == group]
            for group in (profile.groups() if self.menu.kind == "tree" else ("",))
        ]
        # What a device was read to hold may lie between its steps (another unit, an older list):
        # the menu can only show a step.
        self.stored = {p.code: p.nearest(stored.get(p.code, p.default)) for p in profile.parameters}

    def parameter(self, place: Place) -> Parameter:
        """Return the parameter that a place among or in parameters is at."""
        return self.rows[place.group][place.item]

    def count(self, value: Parameter, shown: float) -> int:
        """Return a shown value as steps above the least."""
        return round((shown - value.low) / value.step)

    def most(self, place: Place) -> int:
        """Return the steps from the least to the most of the parameter at a place."""
        item = self.parameter(place)
        return self.count(item, item.high)

    def shown(self, place: Place) -> tuple[str, str]:
        """Return (code, value) as the display shows them at a place; ("", "") where it is
        closed."""
        if place.at == CLOSED:
            return "", ""
        if place.at == GROUPS:
            return self.profile.groups()[place.group], ""
        item = self.parameter(place)
        if place.at == EDIT:
            steps = place.value
        else:
            steps = self.count(item, self.stored[item.code])
        return item.code, item.shown(item.low + steps * item.step)

    def keeps(self, place: Place) -> bool:
        """Return whether storing at a place in edit would store what is stored already."""
        item = self.parameter(place)
        return place.value == self.count(item, self.stored[item.code])

    def pressed(self, place: Place) -> Iterator[tuple[str, Place, bool]]:
        """Yield (key, place after it, whether it stores) for every key that does something at a
        place."""
        menu = self.menu
        if place.at == CLOSED:
            if menu.kind:
                yield menu.open, Place(GROUPS if menu.kind == "tree" else BROWSE), False
            return
        if place.at == GROUPS:
            for key, group in self._moved(place.group, len(self.rows)):
                yield key, replace(place, group=group, item=0), False
            yield menu.enter, replace(place, at=BROWSE, item=0), False
            yield menu.back, Place(), False
            return
        if place.at == BROWSE:
            for key, index in self._moved(place.item, len(self.rows[place.group])):
                yield key, replace(place, item=index), False
            item = self.parameter(place)
            yield (
                menu.enter,
                replace(place, at=EDIT, value=self.count(item, self.stored[item.code])),
                False,
            )
            yield (
                menu.back,
                (replace(place, at=GROUPS, item=0) if menu.kind == "tree" else Place()),
                False,
            )
            return
        most = self.most(place)
        moves = [
            (menu.up, 1),
            (menu.down, -1),
            (menu.fast_up, menu.fast),
            (menu.fast_down, -menu.fast),
        ]
        for key, by in moves:
            if key:
                yield key, replace(place, value=min(max(place.value + by, 0), most)), False
        yield menu.enter, replace(place, at=BROWSE, value=0), True

    def _moved(self, index: int, count: int) -> Iterator[tuple[str, int]]:
        following, earlier = self.menu.next or self.menu.up, self.menu.previous or self.menu.down
        for key, by in ((following, 1), (earlier, -1)):
            if self.menu.wraps:
                after = (index + by) % count
            else:
                after = min(max(index + by, 0), count - 1)
            yield key, after

    def press(self, place: Place, key: str) -> Place:
        """Return the place after a key; what is stored is stored here. An unknown key does
        nothing."""
        for name, after, stores in self.pressed(place):
            if name == key:
                if stores:
                    item = self.parameter(place)
                    self.stored[item.code] = round(item.low + place.value * item.step, 6)
                return after
        return place


def plan(machine: Machine, code: str, wanted: float, start: Place = Place()) -> tuple[Press, ...]:
    """Return the fewest presses from a place to a stored value; leaving the menu is not counted.

    Raises RangeError for a value that it cannot be set to, NoWayError where the menu does not lead
    there.
    """
    item = machine.profile.parameter(code)
    steps = machine.count(item, item.check(wanted))
    if abs(machine.stored[code] - wanted) < item.step / 2 and start.at != EDIT:
        return ()
    before: dict[Place, tuple[Place, str]] = {}
    waiting, seen = deque([start]), {start}
    while waiting and len(seen) < MOST_STATES:
        place = waiting.popleft()
        for key, after, stores in machine.pressed(place):
            if stores and machine.parameter(place).code == code and place.value == steps:
                return _together([*_keys(before, start, place), key])
            if stores and not machine.keeps(place):
                continue  # would store something that nobody wants
            if place.at == BROWSE and after.at == EDIT and machine.parameter(after).code != code:
                continue  # into another parameter and out again is never shorter
            if after not in seen:
                seen.add(after)
                before[after] = (place, key)
                waiting.append(after)
    raise NoWayError(f"the menu of {machine.profile.title} does not lead to {code}")


def look_up(machine: Machine, code: str, start: Place = Place()) -> tuple[Press, ...]:
    """Return the fewest presses from a place to where the display shows a parameter, storing
    nothing new.

    Raises UnknownNameError, or NoWayError where the menu does not lead there.
    """
    goal = standing_at(machine, code, None, False)
    before: dict[Place, tuple[Place, str]] = {}
    waiting, seen = deque([start]), {start}
    while waiting:
        place = waiting.popleft()
        if place == goal:
            return _together(_keys(before, start, place))
        for key, after, stores in machine.pressed(place):
            unwanted = stores and not machine.keeps(place)
            into = place.at != EDIT and after.at == EDIT
            if unwanted or into or after in seen:
                continue
            seen.add(after)
            before[after] = (place, key)
            waiting.append(after)
    raise NoWayError(f"the menu of {machine.profile.title} does not lead to {code}")


def machine_document(machine: Machine) -> dict[str, object]:
    """Return a menu as plain data, for a display that is drawn elsewhere; values in steps above the
    least."""
    rows = []
    for row in machine.rows:
        rows.append(
            [
                {
                    "code": item.code,
                    "name": item.name,
                    "low": item.low,
                    "step": item.step,
                    "digits": item.digits,
                    "most": machine.count(item, item.high),
                    "unit": item.unit,
                    "words": [[machine.count(item, value), words] for value, words in item.choices],
                    "stored": machine.count(item, machine.stored[item.code]),
                }
                for item in row
            ]
        )
    if machine.menu.kind == "tree":
        groups = list(machine.profile.groups())
    else:
        groups = [""]
    return {"menu": asdict(machine.menu), "groups": groups, "rows": rows}


def leaving(machine: Machine, start: Place) -> tuple[Press, ...]:
    """Return the presses that leave the menu from a place, storing nothing on the way."""
    keys = []
    place = start
    for _ in range(4):
        if place.at == CLOSED:
            break
        if place.at == EDIT:
            key = machine.menu.enter
        else:
            key = machine.menu.back
        keys.append(key)
        place = next(after for name, after, _ in machine.pressed(place) if name == key)
    return _together(keys)


def standing_at(machine: Machine, code: str, shown: float | None, editing: bool) -> Place:
    """Return where a menu stands by what its display shows; raises UnknownNameError or
    RangeError."""
    if not code:
        return Place()
    item = machine.profile.parameter(code)
    for group, row in enumerate(machine.rows):
        if item in row:
            place = Place(EDIT if editing else BROWSE, group, row.index(item))
            if editing and shown is not None:
                place = replace(place, value=machine.count(item, item.check(shown)))
            return place
    raise NoWayError(f"{code} is not in the menu of {machine.profile.title}")


def _keys(before: dict[Place, tuple[Place, str]], start: Place, place: Place) -> list[str]:
    found: list[str] = []
    while place != start:
        place, key = before[place]
        found.append(key)
    return found[::-1]


def _together(keys: list[str]) -> tuple[Press, ...]:
    presses: list[Press] = []
    for key in keys:
        if presses and presses[-1].key == key:
            presses[-1] = Press(key, presses[-1].times + 1)
        else:
            presses.append(Press(key, 1))
    return tuple(presses)
