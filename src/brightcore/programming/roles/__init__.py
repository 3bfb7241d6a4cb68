"""What every function of a device should be set to, and why; families in files, one line a role."""

from brightcore.errors import UnknownNameError
from brightcore.programming.case import Role
from brightcore.programming.roles import assist, controls, current, motor, pack, speed

ROLES: tuple[Role, ...] = (
    *speed.ROLES,
    *pack.ROLES,
    *current.ROLES,
    *assist.ROLES,
    *controls.ROLES,
    *motor.ROLES,
)

_BY_NAME = {role.name: role for role in ROLES}


def role(name: str) -> Role:
    """Return a role by its name; raises UnknownNameError."""
    try:
        return _BY_NAME[name]
    except KeyError:
        raise UnknownNameError("role", name, tuple(_BY_NAME)) from None
