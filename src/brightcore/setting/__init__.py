"""Set: the instruments with which sensors, cut-offs, packs and motors are measured and brought in
range.

A new instrument is one file here and one line in `INSTRUMENTS`.
"""

from brightcore.bike.model import Bike
from brightcore.errors import UnknownNameError
from brightcore.setting.capacity import Capacity
from brightcore.setting.contract import Instrument, Subject
from brightcore.setting.cutoff import CutOff
from brightcore.setting.functions import SmallFunctions
from brightcore.setting.gauge import StrainGauge
from brightcore.setting.groups import CellGroups
from brightcore.setting.halls import HallsByHand
from brightcore.setting.motor import MotorFigures
from brightcore.setting.pedal import PedalRing
from brightcore.setting.plug import WhichPlug
from brightcore.setting.temperature import Thermistor
from brightcore.setting.throttle import ThrottleRange
from brightcore.setting.torque import TorqueSlope
from brightcore.setting.torque_wires import TorqueWires
from brightcore.setting.ways import WaysByTrial
from brightcore.setting.wheel import WheelSpeed

INSTRUMENTS: tuple[Instrument, ...] = (
    CellGroups(),
    Capacity(),
    HallsByHand(),
    WaysByTrial(),
    MotorFigures(),
    ThrottleRange(),
    CutOff(),
    PedalRing(),
    TorqueSlope(),
    Thermistor(),
    SmallFunctions(),
    WheelSpeed(),
    WhichPlug(),
    TorqueWires(),
    StrainGauge(),
)
"""In the order of work: the pack, then the motor, then what asks it to turn, then the wheel."""


def instrument(key: str) -> Instrument:
    """Return an instrument by its key; raises UnknownNameError."""
    for item in INSTRUMENTS:
        if item.key == key:
            return item
    raise UnknownNameError("instrument", key, tuple(item.key for item in INSTRUMENTS))


def bench_row(bike: Bike) -> tuple[tuple[Instrument, Subject], ...]:
    """Return what there is to set on a bike, in order."""
    found = []
    for item in INSTRUMENTS:
        for subject in item.subjects(bike):
            found.append((item, subject))
    return tuple(found)
