"""The state of the practice bench: how the bike stands, what is held, where the meter's leads
are."""

from dataclasses import asdict, dataclass, fields, replace
from typing import Any, Self

from brightcore.circuit.conditions import Condition

METER_MODES = {"volts": "V", "ohms": "Ω", "diode": "diode"}


@dataclass(frozen=True, slots=True)
class State:
    """How everything stands. `charged`: the capacitors hold charge; `gone`: repairs made, by id,
    and `swap:part` while a known good part is in; `brought`: what was done to bring a fault out;
    `act`: how many acts there were; `minutes`, `cost`: what they took; `ended`: how it was
    ended, "" while it goes on.

    `told`: codes of hazards that stand; `read`: points at which a danger was read and stands;
    `clean`: ids of dead tests that were clean when they were last made. See `standing`.
    """

    power: str = "off"
    wheel: str = "down"
    charged: bool = True
    held: tuple[tuple[str, str], ...] = ()
    unplugged: tuple[str, ...] = ()
    gone: tuple[str, ...] = ()
    brought: str = ""
    mode: str = "volts"
    red: str = ""
    black: str = ""
    shown: str = ""
    act: int = 0
    minutes: float = 0.0
    cost: float = 0.0
    ended: str = ""
    told: tuple[str, ...] = ()
    read: tuple[str, ...] = ()
    clean: tuple[str, ...] = ()

    @property
    def condition(self) -> Condition:
        """The electrical state."""
        return Condition(self.power, tuple(sorted(self.held)), tuple(sorted(self.unplugged)))

    def holding(self, control: str, value: str, rest: str) -> Self:
        """Return the state with one control held, or let go where it is at rest."""
        held = tuple(item for item in self.held if item[0] != control)
        return replace(self, held=held if value == rest else (*held, (control, value)))

    def document(self) -> dict[str, Any]:
        """Return the state as JSON has it."""
        return asdict(self)


def read_state(document: dict[str, Any]) -> State:
    """Return the state of a document that `State.document` made."""
    known = {field.name for field in fields(State)}
    values = {name: value for name, value in document.items() if name in known}
    values["held"] = tuple((str(a), str(b)) for a, b in values.get("held", ()))
    for name in ("unplugged", "gone", "told", "read", "clean"):
        values[name] = tuple(values.get(name, ()))
    return State(**values)
