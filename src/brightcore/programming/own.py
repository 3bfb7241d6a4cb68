"""Which parts of a bike belong to the device that is programmed."""

from brightcore.analysis.bike import analysis_of
from brightcore.bike.model import Part
from brightcore.kinds.motor import MotorSpec
from brightcore.kinds.select import controllers, motors
from brightcore.programming.case import Case


def own_motor(case: Case) -> Part[MotorSpec] | None:
    """Return the motor of the device: the one its phases reach, else that of the same place among
    controllers and motors."""
    whole = analysis_of(case.bike)
    driven = next((motor for motor in motors(case.bike) if whole.drives(case.part, motor)), None)
    if driven is not None:
        return driven
    own = [controller.id for controller in controllers(case.bike)]
    found = motors(case.bike)
    if case.part.id in own and own.index(case.part.id) < len(found):
        return found[own.index(case.part.id)]
    if found:
        return found[0]
    return None
