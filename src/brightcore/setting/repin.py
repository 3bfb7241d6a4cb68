"""Putting a way that ran into the description: the motor's wires moved at its own plug."""

from brightcore.analysis.bike import analysis_of
from brightcore.bike.model import Bike, Join
from brightcore.describing.join_edits import remove_join, set_pairs
from brightcore.errors import BikeError
from brightcore.setting.commutation import Order
from brightcore.setting.ways import BY_NAME

PHASES = ("phase_u", "phase_v", "phase_w")
HALLS = ("hall_a", "hall_b", "hall_c")


def repinned(bike: Bike, motor: str, way: str) -> Bike:
    """Return the bike with the motor's phases and halls at the controller's inputs as in a way
    (`UVW-ABC`).

    Raises BikeError where the motor's plugs are not connected, or lead to no controller.
    """
    found = BY_NAME[way]
    for roles, order in ((PHASES, found.phases), (HALLS, found.halls)):
        bike = _moved(bike, motor, roles, order)
    return bike


def _moved(bike: Bike, motor: str, roles: tuple[str, ...], order: Order) -> Bike:
    port, join = _plug(bike, motor, roles)
    own = {}
    for pin in bike.part(motor).port(port).pins:
        if pin.role in roles:
            own[pin.role] = pin.name
    at_motor = join.a_part == motor
    mate_part, mate_port = (join.b_part, join.b_port) if at_motor else (join.a_part, join.a_port)
    apart = analysis_of(remove_join(bike, join.id)).circuit.nets
    fresh = []
    for a, b in join.pairs:
        motor_pin, mate_pin = (a, b) if at_motor else (b, a)
        leads_to = apart.roles_of(f"{mate_part}.{mate_port}.{mate_pin}") & set(roles)
        if motor_pin in own.values():
            if len(leads_to) != 1:
                raise BikeError(
                    f"the {bike.part(motor).name} leads to no controller: connect it first"
                )
            motor_pin = own[roles[order[roles.index(leads_to.pop())]]]
        fresh.append((motor_pin, mate_pin) if at_motor else (mate_pin, motor_pin))
    return set_pairs(bike, join.id, tuple(fresh))


def _plug(bike: Bike, motor: str, roles: tuple[str, ...]) -> tuple[str, Join]:
    for port in bike.part(motor).ports:
        if any(pin.role == roles[0] for pin in port.pins):
            joined = list(bike.joins_of(motor, port.id))
            if len(joined) == 1:
                return port.id, joined[0]
    raise BikeError(f"the plugs of the {bike.part(motor).name} are not connected on Wire")
