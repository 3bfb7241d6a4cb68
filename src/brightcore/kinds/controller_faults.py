"""What breaks in a controller, as rows. How common each is: common practice."""

from collections.abc import Iterator

from brightcore.bike.model import Part
from brightcore.circuit.elements import KNEE_V, Override, ramp_source
from brightcore.circuit.faults import FaultMode
from brightcore.kinds.fault_rows import (
    FaultRow,
    RepairRow,
    becomes,
    having,
    modes_of,
    opens,
    weakens,
)
from brightcore.kinds.motor import HALLS, PHASES

LOW_LOGIC_V = 4.3
"""Where a 5 V supply that is off usually stands (common practice)."""

BLOWN_SMELT = 0.5
"""How often a blown power stage can be smelt (common practice)."""

SHORTED_OHM, STUCK_OHM, BROKEN_OHM = 0.02, 200.0, 1e6
"""A switch that is welded, an input that is pulled down inside, a driver that is gone."""

NEW = RepairRow("Replace the {part}", 35, "Water, heat, or a short on one of its leads", 2)
MENU = RepairRow(
    "Set the low-voltage cut-off to suit the pack",
    5,
    "Set for another pack",
    what="cutoff",
    family="setting",
)
LIMIT = RepairRow(
    "Set the speed limit or the level's current back to what the class of the bike allows",
    5,
    "Set for another wheel, or by somebody who tried the menu",
    what="limit",
    family="setting",
)
COOLING = RepairRow(
    "Give the {part} air and metal to shed its heat, and lower its phase current",
    20,
    "Shut into a bag or frame, mounted on plastic, or a limit set too high for it",
    what="cooling",
)


def _low_supply(part: Part) -> tuple[Override, ...]:
    """Return the 5 V supply giving LOW_LOGIC_V."""
    low = ramp_source(LOW_LOGIC_V + KNEE_V, 0.01, 8.0, 12.0)
    return (Override(f"{part.id}/supply_source", low),)


WHOLE = (
    FaultRow(
        "inside.board",
        "dead",
        "does nothing at all",
        2.0,
        NEW,
        opens("supply_limit", "standby"),
        ("dead",),
        signs=(("smelt", 0.25),),
    ),
    FaultRow("inside.supply", "dead", "5 V supply dead", 1.5, NEW, opens("supply_limit")),
    FaultRow("inside.supply", "low", "5 V supply stands too low", 0.7, NEW, _low_supply),
    FaultRow("inside.supply", "weak", "5 V supply weak", 1.0, NEW, weakens("supply_limit", 55.0)),
    FaultRow(
        "inside.menu",
        "cutoff-high",
        "low-voltage cut-off set too high",
        1.5,
        MENU,
        traits=("cutoff_high",),
        seen_by_eye=0.97,
    ),
    FaultRow(
        "inside.menu",
        "limit-low",
        "speed limit or level set too low",
        1.0,
        LIMIT,
        traits=("limit_low",),
        seen_by_eye=0.97,
    ),
    FaultRow(
        "inside.heat",
        "cut-back",
        "grows too hot and holds back",
        0.2,
        COOLING,
        traits=("cut_back",),
        loose=4.0,
        signs=(("hot", 0.9),),
    ),
)
"""Faults of the board as a whole, its settings and its heat."""


def _of_phase(phase: str) -> tuple[FaultRow, ...]:
    """Return the faults of one leg of the power stage."""
    letter, place = phase[-1].upper(), f"phases.{phase[-1]}"
    smelt = (("smelt", BLOWN_SMELT),)
    return (
        FaultRow(
            place,
            "gate-dead",
            f"phase {letter} never driven",
            0.8,
            NEW,
            traits=(f"gate_dead:{phase}",),
        ),
        FaultRow(
            place,
            "low-shorted",
            f"phase {letter} lower switch shorted",
            0.7,
            NEW,
            becomes(f"{phase}_low_short", SHORTED_OHM),
            ("bridge_short",),
            signs=smelt,
        ),
        FaultRow(
            place,
            "high-shorted",
            f"phase {letter} upper switch shorted",
            0.7,
            NEW,
            becomes(f"{phase}_high_short", SHORTED_OHM),
            ("bridge_short",),
            signs=smelt,
        ),
    )


STAGE = tuple(row for phase in PHASES for row in _of_phase(phase))
"""Faults of the power stage."""

INPUTS = (
    # role of the pin, name of the input, words
    *((hall, hall, f"hall {hall[-1].upper()} input") for hall in HALLS),
    ("throttle_signal", "throttle", "throttle input"),
    ("pedal_signal", "pedal", "pedal input"),
    ("ntc", "ntc", "temperature input"),
    ("torque_signal", "torque", "torque input"),
)
"""Inputs that die by themselves; each stands on the first pin of its role."""

OUTPUTS = (
    # role of the pin, the fault on its first pin
    (
        "accessory_plus",
        FaultRow("", "dead", "lamp output dead", 1.0, NEW, opens("accessory_limit")),
    ),
    (
        "serial_tx",
        FaultRow(
            "", "dead", "does not talk to the display", 0.7, NEW, becomes("tx_drive", BROKEN_OHM)
        ),
    ),
)


def pins_with(part: Part, role: str) -> Iterator[str]:
    """Yield `port.pin` of every pin of a role."""
    for plug in part.ports:
        for pin in plug.pins:
            if pin.role == role:
                yield f"{plug.id}.{pin.name}"


def _on_pins(part: Part) -> Iterator[FaultRow]:
    """Yield the faults that stand on pins which only some controllers have."""
    for count, pin in enumerate(pins_with(part, "brake_signal")):
        stuck = becomes(f"brake_{count}_stuck", STUCK_OHM)
        yield FaultRow(pin, "stuck", "brake input stuck low", 0.7, NEW, stuck)
    for role, name, words in INPUTS:
        if having(role)(part):
            pin = next(pins_with(part, role))
            yield FaultRow(pin, "input-dead", f"{words} dead", 0.5, NEW, traits=(f"dead:{name}",))
    for role, row in OUTPUTS:
        if having(role)(part):
            yield row.at(next(pins_with(part, role)))


def controller_faults(part: Part) -> tuple[FaultMode, ...]:
    """Return every fault that a controller can have."""
    return modes_of(part, (*WHOLE, *STAGE, *_on_pins(part)))
