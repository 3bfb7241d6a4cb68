"""Rules on the cable of a hub motor against the bore that was measured."""

import math
from collections.abc import Iterator

from brightcore.analysis.bike import Analysis
from brightcore.analysis.rule import Found, rule
from brightcore.bike.model import Bike, Part, Port
from brightcore.bike.roles import role_of
from brightcore.findings import Finding
from brightcore.kinds.motor import HubMotorSpec
from brightcore.kinds.select import as_cable, hub_motors
from brightcore.physics.gauges import stripped_mm

THIN_MM2, PHASE_MM2 = 0.2, 2.0
"""Areas taken for hall and phase cores that are not described (common practice)."""

BULLET_MM, PIN_PITCH_MM, SHELL_MM, POWER_PITCH_MM = 7.0, 2.5, 5.0, 8.0
"""Widths of a single bullet, a pin of a small plug and its shell, a pin of a power plug (common
practice)."""


def plug_mm(port: Port) -> float:
    """Return about how wide a plug is, in mm: bullets pass singly, others by their pins in two
    rows."""
    if port.rewireable:
        return BULLET_MM
    if port.family.startswith("power"):
        return POWER_PITCH_MM * len(port.pins)
    return PIN_PITCH_MM * math.ceil(len(port.pins) / 2) + SHELL_MM


def cores_of(bike: Bike, motor: Part) -> list[float]:
    """Return the areas in mm² of all cores that leave a motor; those not described are taken as
    usual."""
    areas = []
    for port in motor.ports:
        thick = any(role_of(pin.role).use == "phase" for pin in port.pins)
        usual = PHASE_MM2 if thick else THIN_MM2
        areas += [_described_mm2(bike, motor, port) or usual] * len(port.pins)
    return areas


def _described_mm2(bike: Bike, motor: Part, port: Port) -> float:
    """Return the area of the wire or cable at a motor's plug, 0 where it is not described."""
    found = []
    for join in bike.joins_of(motor.id, port.id):
        cables = []
        for p, _ in join.sides():
            if (cable := as_cable(bike.part(p))) is not None:
                cables.append(cable)
        found.append(join.wire.area_mm2 or (cables[0].spec.area_mm2 if cables else 0.0))
    return max(found, default=0.0)


def _measured(case: Analysis) -> Iterator[tuple[Part[HubMotorSpec], list[float], float]]:
    """Yield (motor, its cores, bore they need without a jacket) of every motor with a measured
    bore."""
    for motor in hub_motors(case.bike):
        if motor.spec.axle_bore_mm:
            cores = cores_of(case.bike, motor)
            yield motor, cores, stripped_mm(cores)


@rule(
    "W033",
    "fault",
    (
        "The {count} cores of the {motor} need {stripped_mm} even without a jacket, the bore is "
        "{bore_mm}."
    ),
    "Fewer or thinner cores (speed and temperature may go by another way), or a motor with a "
    "wider axle bore.",
)
def bore_too_small(case: Analysis, found: Found) -> Iterator[Finding]:
    """Cores that do not pass the bore."""
    for motor, cores, need in _measured(case):
        bore = motor.spec.axle_bore_mm
        if need > bore:
            yield found(
                (motor.id,),
                motor=motor.name,
                bore_mm=f"{bore:g} mm",
                stripped_mm=f"{need:.1f} mm",
                count=str(len(cores)),
            )


@rule(
    "W034",
    "advice",
    "The cable of the {motor} is {jacket_mm} thick, its bore {bore_mm}: only the bare cores pass "
    "({stripped_mm}).",
    "Strip the jacket over the axle's length, lay the cores flat, sleeve them; nothing may chafe "
    "at the axle's edge.",
)
def jacket_too_thick(case: Analysis, found: Found) -> Iterator[Finding]:
    """A cable that passes the bore only without its jacket."""
    for motor, _, need in _measured(case):
        bore, jacket = motor.spec.axle_bore_mm, motor.spec.cable_jacket_mm
        if need <= bore < jacket:
            yield found(
                (motor.id,),
                motor=motor.name,
                bore_mm=f"{bore:g} mm",
                stripped_mm=f"{need:.1f} mm",
                jacket_mm=f"{jacket:g} mm",
            )


@rule(
    "W035",
    "advice",
    (
        "The {port} plug of the {motor} is about {plug_mm} wide and does not pass the bore of "
        "{bore_mm}."
    ),
    "Bearing, cover and nuts over the cable first; then solder or crimp the plug.",
)
def plug_after(case: Analysis, found: Found) -> Iterator[Finding]:
    """A plug that does not pass the bore."""
    for motor, _, _ in _measured(case):
        for port in motor.ports:
            if plug_mm(port) > motor.spec.axle_bore_mm:
                yield found(
                    (f"{motor.id}.{port.id}",),
                    motor=motor.name,
                    port=port.label or port.id,
                    bore_mm=f"{motor.spec.axle_bore_mm:g} mm",
                    plug_mm=f"{plug_mm(port):.0f} mm",
                )


RULES = (bore_too_small, jacket_too_thick, plug_after)
