"""Acts at the practice bench, one file each; a new one is one line in `ACTS`."""

from brightcore.errors import UnknownNameError
from brightcore.practice.acts.base import Act, Choice, Done, Play, Said
from brightcore.practice.acts.bridge import Bridge
from brightcore.practice.acts.bring import Bring
from brightcore.practice.acts.hold import Hold
from brightcore.practice.acts.look import Look
from brightcore.practice.acts.meter import Leads, Measure
from brightcore.practice.acts.plug import Plug
from brightcore.practice.acts.repair import Repair
from brightcore.practice.acts.stand import Drain, Power, Wheel
from brightcore.practice.acts.swap import Swap
from brightcore.practice.acts.watch import Watch

ACTS: tuple[Act, ...] = (
    Power(),
    Wheel(),
    Drain(),
    Watch(),
    Hold(),
    Plug(),
    Leads(),
    Measure(),
    Bridge(),
    Look(),
    Bring(),
    Swap(),
    Repair(),
)
"""In the order in which the page shows them."""

_BY_KEY = {act.key: act for act in ACTS}


def act_of(key: str) -> Act:
    """Return an act by its key; raises UnknownNameError."""
    try:
        return _BY_KEY[key]
    except KeyError:
        raise UnknownNameError("act", key, tuple(_BY_KEY)) from None


__all__ = ["ACTS", "Act", "Choice", "Done", "Play", "Said", "act_of"]
