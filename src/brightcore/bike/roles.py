"""Roles of pins: one typed table of what a contact is for. Every set of roles used elsewhere is
derived from it.

A new role is one line in `ROLES`; kinds name roles on their pins and give them their electrics.
`docs/formats/` describes the table for who writes files. All facts are common practice of the
trade.
"""

from collections.abc import Iterator
from dataclasses import dataclass

from brightcore.errors import UnknownNameError

POLARITIES = ("", "plus", "minus")
LEVELS = ("any", "pack", "set", "5v", "own", "ground", "phase")
WAYS = ("gives", "wants", "both", "carries")
USES = (
    "wire", "power", "ground", "supply", "light", "key", "serial", "demand", "cut_off", "hall",
        "speed",
        "temperature", "phase", "charge", "cells", "mode",
)  # fmt: skip
CURRENTS = ("none", "battery", "phase", "drawn", "signal")


@dataclass(frozen=True, slots=True)
class Role:
    """What a pin is for.

    `polarity`: plus or minus of a supply, "" for signals. `level`: which volts belong on it: the
    pack's, those a device is set to (`set`), 5 V logic, what its part is made for (`own`), ground,
    a motor phase, any. `way`: whether it gives, wants, both, or carries what the far end has.
    `mates`: roles that belong on the same contact, itself where two of a kind do. `current`: what
    decides its current: battery or phase limit, what hangs on it (`drawn`), next to nothing
    (`signal`). `tied`: several of them may share one wire. `output`: how the part's own output
    works its wire: `drives` it or only `pulls` it to ground. `live`: what a free plug carries when
    switched on, "" where that is harmless. `moved_by`: the control that moves the signal (see
    `Control`).
    """

    name: str
    meaning: str
    polarity: str
    level: str
    way: str
    use: str
    mates: tuple[str, ...]
    current: str
    tied: bool
    output: str = ""
    live: str = ""
    moved_by: str = ""

    @property
    def gives(self) -> bool:
        """Whether it puts something on its wire."""
        return self.way in ("gives", "both")

    @property
    def wants(self) -> bool:
        """Whether it takes something from its wire."""
        return self.way in ("wants", "both")

    @property
    def ground_like(self) -> bool:
        """Whether readings may be taken against it."""
        return self.level == "ground"

    @property
    def carries_power(self) -> bool:
        """Whether it is a thick one: battery or phase current flows."""
        return self.current in ("battery", "phase")

    @property
    def is_signal(self) -> bool:
        """Whether it carries information from or to a sensor or lever."""
        return self.use in ("demand", "cut_off", "hall", "speed", "temperature", "mode")


def _hall(letter: str) -> Role:
    name = f"hall_{letter}"
    return Role(
        name,
        f"hall sensor {letter.upper()}",
        "",
        "5v",
        "carries",
        "hall",
        (name,),
        "signal",
        False,
        "pulls",
        "",
        "rotor",
    )


def _phase(letter: str) -> Role:
    name = f"phase_{letter}"
    return Role(
        name,
        f"motor phase {letter.upper()}",
        "",
        "phase",
        "carries",
        "phase",
        (name,),
        "phase",
        False,
    )


ROLES: tuple[Role, ...] = (
    # name, meaning, polarity, level, way, use; mates, current, tied, output, live when free
    Role("pack_plus", "plus of a pack", "plus", "pack", "gives", "power",
         ("battery_plus", "combine_a", "combine_b", "convert_in"), "battery", False,
         live="pack volts"),
    Role("pack_minus", "minus of a pack", "minus", "ground", "gives", "power",
         ("battery_minus", "combine_minus", "signal_ground", "sensor_ground", "lamp_minus",
         "convert_minus"),
         "battery", True),
    Role("charge_out", "plus of a charger", "plus", "pack", "gives", "charge",
         ("charge_in",), "drawn", False, live="charger volts"),
    Role("charge_in", "plus of a pack's charge plug", "plus", "pack", "wants", "charge",
         (), "drawn", False, live="pack volts"),
    Role("charge_minus", "minus of a charger", "minus", "ground", "wants", "charge",
         ("pack_minus",), "drawn", True),
    Role("balance", "balance lead: every group of cells", "", "any", "carries", "cells",
         ("balance",), "none", False),
    Role("combine_out", "combined plus of two packs", "plus", "pack", "gives", "power",
         ("battery_plus", "convert_in"), "battery", False, live="pack volts"),
    Role("supply_5v", "5 V that a controller gives", "plus", "5v", "gives", "supply",
         ("sensor_supply",), "drawn", False, live="5 V"),
    Role("signal_ground", "ground of signals at a controller", "minus", "ground", "gives", "ground",
         ("signal_ground", "sensor_ground", "lamp_minus", "convert_minus"), "drawn", True),
    Role("battery_plus", "battery plus of a controller", "plus", "pack", "both", "power",
         ("combine_a", "combine_b", "convert_in"), "battery", True),
    Role("battery_minus", "battery minus of a controller", "minus", "ground", "both", "power",
         ("combine_minus",), "battery", True),
    Role("battery_out", "pack plus handed on to a display or key", "plus", "pack", "gives",
         "supply",
         ("display_plus", "key_in", "convert_in"), "drawn", True, live="pack volts"),
    Role("key", "key line of a controller: pack volts switch it on", "", "pack", "both", "key",
         ("display_key", "key_out"), "signal", True),
    Role("convert_out", "plus of a step-down converter", "plus", "set", "gives", "supply",
         ("sensor_supply", "lamp_plus"), "drawn", False, live="the converter's volts"),
    Role("accessory_plus", "lamp output of a controller", "plus", "set", "gives", "light",
         ("lamp_plus", "convert_in"), "drawn", False, live="lamp volts"),
    Role("combine_a", "plus of pack A at a combining module", "plus", "pack", "wants", "power",
         (), "battery", False),
    Role("combine_b", "plus of pack B at a combining module", "plus", "pack", "wants", "power",
         (), "battery", False),
    Role("combine_minus", "common minus of a combining module", "minus", "ground", "wants", "power",
         (), "battery", True),
    Role("convert_in", "input plus of a step-down converter", "plus", "own", "wants", "supply",
         (), "drawn", True),
    Role("convert_minus", "minus of a step-down converter", "minus", "ground", "wants", "ground",
         ("sensor_ground", "lamp_minus"), "drawn", True),
    Role("sensor_supply", "supply that a sensor takes", "plus", "own", "wants", "supply",
         (), "drawn", True),
    Role("sensor_ground", "ground of a sensor or display", "minus", "ground", "wants", "ground",
         (), "drawn", True),
    Role("lamp_plus", "plus of a lamp", "plus", "own", "wants", "light",
         (), "drawn", True),
    Role("lamp_minus", "minus of a lamp", "minus", "ground", "wants", "light",
         (), "drawn", True),
    Role("display_plus", "pack plus that a display takes", "plus", "own", "wants", "supply",
         (), "drawn", True),
    Role("display_key", "key line that a display switches", "", "pack", "gives", "key",
         ("key_out",), "signal", True),
    Role("key_in", "pack plus into a key lock", "", "pack", "wants", "key",
         (), "drawn", True),
    Role("key_out", "key line out of a key lock", "", "pack", "gives", "key",
         (), "signal", True),
    Role("serial_tx", "controller sends to the display", "", "5v", "gives", "serial",
         ("display_rx",), "signal", False),
    Role("serial_rx", "controller listens to the display", "", "5v", "wants", "serial",
         ("display_tx",), "signal", False),
    Role("display_rx", "display listens", "", "5v", "wants", "serial",
         (), "signal", False),
    Role("display_tx", "display sends", "", "5v", "gives", "serial",
         (), "signal", False),
    Role("throttle_signal", "throttle signal", "", "5v", "carries", "demand",
         ("throttle_signal",), "signal", False, output="drives", moved_by="grip"),
    Role("torque_signal", "torque signal", "", "5v", "carries", "demand",
         ("torque_signal",), "signal", False, output="drives", moved_by="push"),
    Role("pedal_signal", "pedal pulses", "", "5v", "carries", "demand",
         ("pedal_signal",), "signal", False, output="pulls", moved_by="turn"),
    Role("brake_signal", "brake cut-off signal", "", "5v", "carries", "cut_off",
         ("brake_signal",), "signal", True, output="pulls", moved_by="lever"),
    Role("mode_signal", "mode switch signal: low holds the lower speed", "", "5v", "carries",
         "mode",
         ("mode_signal",), "signal", False, output="pulls", moved_by="mode"),
    Role("wheel_speed", "wheel-speed pulses", "", "5v", "carries", "speed",
         ("wheel_speed",), "signal", False, output="pulls", moved_by="rotor"),
    Role("ntc", "thermistor of the winding", "", "5v", "carries", "temperature",
         ("ntc",), "signal", False),
    *(_hall(letter) for letter in "abc"),
    *(_phase(letter) for letter in "uvw"),
    Role("wire", "plain wire: carries what its far end has", "", "any", "carries", "wire",
         (), "none", True),
)  # fmt: skip
"""Every role, those that tell what a net carries first."""

_BY_NAME = {role.name: role for role in ROLES}


def _mates_of(roles: tuple[Role, ...]) -> dict[str, set[str]]:
    """Return for every role those that belong on the same contact, whichever of the two names the
    other."""
    mates = {role.name: set(role.mates) for role in roles}
    for role in roles:
        for other in role.mates:
            mates[other].add(role.name)
    return mates


_MATES = _mates_of(ROLES)


def role_of(name: str) -> Role:
    """Return the role of that name; raises UnknownNameError."""
    try:
        return _BY_NAME[name]
    except KeyError:
        raise UnknownNameError("pin role", name, tuple(_BY_NAME)) from None


def is_role(name: str) -> bool:
    """Return whether there is a role of that name."""
    return name in _BY_NAME


def named(
    *,
    polarity: str | None = None,
    level: str | None = None,
    use: str | None = None,
    gives: bool | None = None,
    wants: bool | None = None,
) -> frozenset[str]:
    """Return the names of the roles that are as asked for; what is None is not asked.

    >>> sorted(named(use="demand"))
    ['pedal_signal', 'throttle_signal', 'torque_signal']
    """

    def fits(role: Role) -> bool:
        asked = (
            (polarity, role.polarity),
            (level, role.level),
            (use, role.use),
            (gives, role.gives),
            (wants, role.wants),
        )
        return all(want is None or want == has for want, has in asked)

    return frozenset(role.name for role in ROLES if fits(role))


def telling(roles: set[str]) -> str:
    """Return the role that says what a net with several roles carries, "" where none does.

    One that only gives says it before one that gives and wants.
    """
    here = [role for role in ROLES if role.name in roles and role.gives]
    return next((role.name for role in here if not role.wants), here[0].name if here else "")


def mate(one: str, two: str) -> bool:
    """Return whether two roles belong on one contact (a plain wire takes anything)."""
    return "wire" in (one, two) or two in _MATES.get(one, ())


def thick_roles() -> Iterator[str]:
    """Yield the roles that carry battery or phase current."""
    return (role.name for role in ROLES if role.carries_power)
