"""What breaks in a display, as rows. How common each is: common practice."""

from brightcore.bike.model import Part
from brightcore.circuit.faults import FaultMode
from brightcore.kinds.fault_rows import FaultRow, RepairRow, becomes, modes_of, opens

BROKEN_OHM, SHORT_OHM = 1e6, 50.0
"""A transmit driver that is gone, a receive line shorted inside."""

NEW = RepairRow("Replace the {part}", 15, "Water under the glass, or pack volts on a signal pin", 2)
ASSIST = RepairRow(
    "Raise the assist level above zero", 1, "Set by a button press", what="assist", family="setting"
)
WHEEL = RepairRow(
    "Set the wheel size to the measured roll-out, and the speed magnets to those fitted",
    5,
    "Another wheel, tyre or display was fitted",
    what="wheel",
    family="setting",
)
BUTTONS = RepairRow(
    "Free or replace the buttons of the {part}",
    15,
    "Dirt, water or a knock at the buttons",
    1,
    "buttons",
)

ROWS = (
    FaultRow(
        "inside.glass",
        "dead",
        "dead, key line not fed",
        2.2,
        NEW,
        opens("key_switch", "logic_limit"),
        ("dead",),
    ),
    FaultRow(
        "inside.glass",
        "dark",
        "screen dead, but it switches the bike on",
        0.7,
        NEW,
        traits=("dead",),
    ),
    FaultRow(
        "inside.buttons",
        "dead",
        "its on button does not press",
        1.9,
        BUTTONS,
        opens("key_switch", "logic_limit"),
        ("dead",),
        seen_by_eye=0.97,
        loose=0.25,
    ),
    FaultRow(
        "inside.menu",
        "wheel-wrong",
        "wheel size or speed magnets set wrong",
        0.7,
        WHEEL,
        traits=("wheel_wrong",),
        seen_by_eye=0.97,
    ),
    FaultRow(
        "plug.key", "dead", "lit, but does not feed the key line", 2.0, NEW, opens("key_switch")
    ),
    FaultRow("plug.tx", "dead", "transmit line dead", 1.0, NEW, becomes("tx_drive", BROKEN_OHM)),
    FaultRow(
        "plug.rx", "dead", "receive line shorted inside", 1.0, NEW, becomes("rx_pull", SHORT_OHM)
    ),
    FaultRow(
        "inside.menu",
        "assist-zero",
        "assist level stands at zero",
        3.0,
        ASSIST,
        traits=("assist_zero",),
        seen_by_eye=0.97,
    ),
)


def display_faults(part: Part, conductors: tuple[tuple[str, str], ...]) -> tuple[FaultMode, ...]:
    """Return every fault that a display can have; `conductors` are the wires it hands on."""
    broken = []
    for one, two in conductors:
        words = f"{{{part.id}.{one}}} not handed on"
        wire = opens(f"{one}-{two}")
        broken.append(FaultRow(one, f"wire-to-{two}", words, 1.0, NEW, wire))
    return modes_of(part, (*broken, *ROWS))
