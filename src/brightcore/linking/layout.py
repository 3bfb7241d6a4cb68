"""Where everything lies that is not a parameter: identity, live values, commands, results of a
learning run.

The layout is this project's own; parameters lie where the profile of a device says.
"""

from dataclasses import dataclass

from brightcore.errors import RangeError
from brightcore.linking.port import Port
from brightcore.programming.profile import Parameter

LOWEST, HIGHEST, WORD = -32768, 32767, 65536

IDENTITY, FIRMWARE = 5000, 5001
"""The word by which a device names its kind, and its firmware as 100 × major + minor."""

COMMAND, STATUS, REASON = 5100, 5101, 5102
NOTHING, SAVE = 0, 1
IDLE, RUNNING, DONE, FAILED = range(4)
REASONS = (
    "",
    "the motor did not turn",
    "the halls make no sense",
    "the throttle did not move",
    "a brake cut-off was pulled",
    "too few volts",
)
FAULTS = (
    "halls make no sense",
    "throttle not at rest when switched on",
    "volts under the cut-off",
    "motor too hot",
    "brake cut-off pulled",
)
"""What the bits of the fault register mean, lowest first."""


@dataclass(frozen=True, slots=True)
class Field:
    """A value that lies in one register: `per_unit` counts are one unit."""

    name: str
    title: str
    number: int
    per_unit: float = 1.0
    unit: str = ""
    signed: bool = False

    def value(self, raw: int) -> float:
        """Return the value of what stands in the register."""
        return (raw - WORD if self.signed and raw > HIGHEST else raw) / self.per_unit

    def words(self, value: float) -> str:
        """Return a value in words, with its unit."""
        digits = min(max(len(f"{self.per_unit:.0f}") - 1, 0), 2)
        return f"{self.title.lower()} {value:.{digits}f} {self.unit}".rstrip()

    def raw(self, value: float) -> int:
        """Return what stands in the register for a value, held within what it can hold."""
        low, high = (LOWEST, HIGHEST) if self.signed else (0, WORD - 1)
        return min(max(round(value * self.per_unit), low), high) % WORD


LIVE = (
    Field("volts", "Volts", 5010, 10.0, "V"),
    Field("amps", "Amps", 5011, 10.0, "A", signed=True),
    Field("throttle_v", "Throttle", 5012, 1000.0, "V"),
    Field("halls", "Halls", 5013),
    Field("motor_c", "Motor", 5014, 10.0, "°C", signed=True),
    Field("speed_kmh", "Speed", 5015, 10.0, "km/h"),
    Field("rpm", "Turns", 5016, 1.0, "rpm", signed=True),
    Field("faults", "Faults", 5017),
    Field("state", "State", 5018),
)
"""Values while it runs, in one block."""

RESULTS = (
    Field("rest_v", "Throttle at rest", 5110, 1000.0, "V"),
    Field("full_v", "Throttle at full", 5111, 1000.0, "V"),
    Field("phase_mohm", "Winding resistance", 5112, 10.0, "mΩ"),
    Field("phase_uh", "Winding inductance", 5113, 1.0, "µH"),
    Field("rpm_per_v", "Turns per volt", 5114, 100.0, "rpm/V"),
    Field("hall_map", "Hall map", 5115),
    Field("hall_angle_deg", "Angle between halls", 5116, 1.0, "°"),
)
"""What a learning run has found, in one block."""


def counts(item: Parameter, value: float) -> int:
    """Return what stands in the register of a parameter for a shown value.

    Raises RangeError where the register cannot hold it, or there is none.
    """
    if item.register is None:
        raise RangeError(item.code, value, "it is not on the link")
    raw = round(value * item.register.per_unit)
    low, high = (LOWEST, HIGHEST) if item.register.signed else (0, WORD - 1)
    if not low <= raw <= high:
        raise RangeError(item.code, value, "its register cannot hold it")
    return raw % WORD


def shown(item: Parameter, raw: int) -> float:
    """Return the shown value of what stands in the register of a parameter, as exact as its
    step."""
    register = item.register
    assert register is not None, item.code
    value = (raw - WORD if register.signed and raw > HIGHEST else raw) / register.per_unit
    return round(value, max(item.digits, 6))


@dataclass(frozen=True, slots=True)
class Identity:
    """What a device says it is: its word, and its firmware."""

    word: int
    firmware: int

    @property
    def firmware_words(self) -> str:
        """The firmware as said: 1.04."""
        return f"{self.firmware // 100}.{self.firmware % 100:02d}"


def identify(port: Port) -> Identity:
    """Return what a device says it is; raises LinkError."""
    word, firmware = port.read(IDENTITY, 2)
    return Identity(word, firmware)


def live(port: Port) -> dict[str, float]:
    """Return the live values of a device by name; raises LinkError."""
    return _block(port, LIVE)


def results(port: Port) -> dict[str, float]:
    """Return what a learning run has found, by name; raises LinkError."""
    return _block(port, RESULTS)


def _block(port: Port, fields: tuple[Field, ...]) -> dict[str, float]:
    first = fields[0].number
    raw = port.read(first, fields[-1].number - first + 1)
    found: dict[str, float] = {}
    for field in fields:
        found[field.name] = field.value(raw[field.number - first])
    return found


def fault_words(bits: float) -> tuple[str, ...]:
    """Return what the bits of the fault register say.

    >>> fault_words(5)
    ('halls make no sense', 'volts under the cut-off')
    """
    return tuple(words for i, words in enumerate(FAULTS) if int(bits) >> i & 1)
