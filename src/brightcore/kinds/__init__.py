"""The kinds of part. A new kind is one new file here and one line in `REGISTRY`."""

from brightcore.kinds.base import Registry
from brightcore.kinds.brake_lamp import BrakeLamp
from brightcore.kinds.cable import Cable
from brightcore.kinds.charging import CellAlarm, Charger
from brightcore.kinds.controller import Controller
from brightcore.kinds.display import Display
from brightcore.kinds.horn import Horn
from brightcore.kinds.inline import FuseHolder, KeySwitch, LightSwitch
from brightcore.kinds.lamp import Lamp
from brightcore.kinds.levers import BrakeLever, MagneticCutOff
from brightcore.kinds.mid_motor import MidMotor
from brightcore.kinds.mode_switch import ModeSwitch
from brightcore.kinds.modules import Combiner, Converter, Tracker
from brightcore.kinds.motor import HubMotor
from brightcore.kinds.pack import Pack
from brightcore.kinds.pedal_sensor import PedalSensor
from brightcore.kinds.sensors import ReedSensor, SpeedSensor, TorqueSensor
from brightcore.kinds.switches import GearSensor, StandSwitch
from brightcore.kinds.throttle import Throttle

REGISTRY = Registry(
    (
        Pack(),
        Cable(),
        Controller(),
        Display(),
        Throttle(),
        BrakeLever(),
        MagneticCutOff(),
        PedalSensor(),
        HubMotor(),
        Lamp(),
        MidMotor(),
        SpeedSensor(),
        TorqueSensor(),
        GearSensor(),
        StandSwitch(),
        Combiner(),
        Converter(),
        Tracker(),
        Charger(),
        CellAlarm(),
        FuseHolder(),
        LightSwitch(),
        KeySwitch(),
        BrakeLamp(),
        Horn(),
        ReedSensor(),
        ModeSwitch(),
    )
)
