"""Drills, one file each; a new one is one line in `DRILLS`."""

from brightcore.errors import UnknownNameError
from brightcore.practice.drills.base import Drill, Question, question
from brightcore.practice.drills.codes import DeadThrottle
from brightcore.practice.drills.first_plugs import FirstPlugs
from brightcore.practice.drills.halls import HallCodes
from brightcore.practice.drills.miswired import MiswiredPin
from brightcore.practice.drills.motor import MotorNumbers
from brightcore.practice.drills.never import Never
from brightcore.practice.drills.order import WorkInOrder
from brightcore.practice.drills.pack_window import PackWindow
from brightcore.practice.drills.rotor import RotorWay
from brightcore.practice.drills.thermistor import Thermistor
from brightcore.practice.drills.two_packs import TwoPacks
from brightcore.practice.drills.wire_size import WireSize
from brightcore.practice.drills.wires import ThreeWires

DRILLS: tuple[Drill, ...] = (
    PackWindow(),
    ThreeWires(),
    HallCodes(),
    MotorNumbers(),
    Thermistor(),
    WireSize(),
    FirstPlugs(),
    TwoPacks(),
    RotorWay(),
    MiswiredPin(),
    DeadThrottle(),
    WorkInOrder(),
    Never(),
)
_BY_KEY = {drill.key: drill for drill in DRILLS}


def drill_of(key: str) -> Drill:
    """Return a drill by its key; raises UnknownNameError."""
    try:
        return _BY_KEY[key]
    except KeyError:
        raise UnknownNameError("drill", key, tuple(_BY_KEY)) from None


__all__ = ["DRILLS", "Drill", "Question", "drill_of", "question"]
