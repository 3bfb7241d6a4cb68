"""What a device can be told: its parameters, how its menu is pressed, and its registers.

A profile is data (`profiles/*.json`, read by `formats.profile_file`); a shop may add its own.
"""

from dataclasses import dataclass

from brightcore.errors import RangeError, UnknownNameError
from brightcore.units import parse_in

MENUS = ("", "list", "tree")
"""No menu; one list of codes; groups with parameters inside."""

DEVICES = ("display", "controller", "pack", "combiner")


@dataclass(frozen=True, slots=True)
class Register:
    """Where a parameter lies on the link: number, how many counts are one shown unit, signed or
    not."""

    number: int
    per_unit: float = 1.0
    signed: bool = False
    read_only: bool = False


@dataclass(frozen=True, slots=True)
class Parameter:
    """One parameter as its menu has it. Values are in shown units; `per_role` of them make one of
    the role's.

    `choices`: (value, words); `group`: where a tree menu has it; `role` "" where no bike decides
    it.
    """

    code: str
    name: str
    low: float
    high: float
    step: float
    default: float
    unit: str = ""
    role: str = ""
    per_role: float = 1.0
    choices: tuple[tuple[float, str], ...] = ()
    group: str = ""
    register: Register | None = None

    @property
    def digits(self) -> int:
        """Decimals that its menu shows."""
        text = f"{self.step:.6f}".rstrip("0")
        return len(text.partition(".")[2])

    def shown(self, value: float) -> str:
        """Return a value as the menu shows it.

        >>> Parameter("P06", "Cut-off", 20.0, 60.0, 0.5, 31.5).shown(41.0)
        '41.0'
        """
        return f"{value:.{self.digits}f}"

    def words(self, value: float) -> str:
        """Return a value in words: a choice by its words, a number with its unit."""
        for choice, words in self.choices:
            if abs(choice - value) < self.step / 2:
                return words
        return f"{self.shown(value)} {self.unit}".strip()

    def nearest(self, value: float) -> float:
        """Return the value that can be set next to one, within its limits."""
        steps = round((min(max(value, self.low), self.high) - self.low) / self.step)
        return round(self.low + steps * self.step, 6)

    def of_role(self, value: float) -> float:
        """Return a value of the role's unit as one that this device can be set to."""
        return self.nearest(value * self.per_role)

    def to_role(self, value: float) -> float:
        """Return a shown value in the role's unit."""
        return value / self.per_role

    def check(self, value: float) -> float:
        """Return a value that can be set; raises RangeError."""
        if not self.low - 1e-9 <= value <= self.high + 1e-9:
            raise RangeError(
                self.code,
                value,
                f"it must lie from {self.low:g} to {self.high:g} {self.unit}".rstrip(),
            )
        if abs(self.nearest(value) - value) > 1e-6 * max(1.0, abs(value)):
            raise RangeError(
                self.code, value, f"it goes in steps of {self.step:g} {self.unit}".rstrip()
            )
        return self.nearest(value)

    def read(self, text: str) -> float:
        """Return a typed value: a choice by its words, or a number with or without the unit.

        Raises RangeError, or UnitError where it is no number.
        """
        plain = text.strip()
        for value, words in self.choices:
            if plain.lower() == words.lower():
                return value
        return self.check(parse_in(plain.removesuffix(self.unit) if self.unit else plain, ""))


@dataclass(frozen=True, slots=True)
class Menu:
    """How a menu is pressed: its kind, and its keys by what they do.

    `open`, `up`, `down`, `enter`, `back`, `fast_up`, `fast_down`: keys as said, such as `hold − and
    +`, "" where there is none. `next` and `previous` move in lists, where other keys than up and
    down do. `fast`: steps that a held key makes. `wraps`: the list goes round. `stores_on_leaving`:
    nothing is stored before the menu is left.
    """

    kind: str = ""
    open: str = ""
    up: str = "+"
    down: str = "−"
    enter: str = "M"
    back: str = "hold M"
    next: str = ""
    previous: str = ""
    fast_up: str = ""
    fast_down: str = ""
    fast: int = 10
    wraps: bool = True
    stores_on_leaving: bool = False


@dataclass(frozen=True, slots=True)
class Profile:
    """A kind of device: id, title, what it is, its menu, its parameters, and its word on the
    link."""

    id: str
    title: str
    device: str
    menu: Menu
    parameters: tuple[Parameter, ...]
    note: str = ""
    identity: int = 0

    def parameter(self, code: str) -> Parameter:
        """Return a parameter by its code; raises UnknownNameError."""
        for item in self.parameters:
            if item.code == code:
                return item
        raise UnknownNameError("parameter", code, tuple(item.code for item in self.parameters))

    def roles(self) -> tuple[str, ...]:
        """Return the roles it holds, in the order of its menu."""
        return tuple(item.role for item in self.parameters if item.role)

    def by_role(self, role: str) -> Parameter | None:
        """Return the parameter of a role, None where it has none."""
        return next((item for item in self.parameters if item.role == role), None)

    def groups(self) -> tuple[str, ...]:
        """Return the groups of a tree menu, in order."""
        return tuple(dict.fromkeys(item.group for item in self.parameters))
