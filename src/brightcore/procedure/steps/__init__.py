"""Steps of the work, one family a file; a new one is one line in `FAMILIES`."""

from brightcore.procedure.steps.bar import on_the_bar
from brightcore.procedure.steps.base import Family
from brightcore.procedure.steps.controller import controller
from brightcore.procedure.steps.crank_motor import mid_drive
from brightcore.procedure.steps.finish import finish
from brightcore.procedure.steps.hub import hub_wheel
from brightcore.procedure.steps.loom import loom
from brightcore.procedure.steps.module import module
from brightcore.procedure.steps.opened import opened
from brightcore.procedure.steps.pack import pack
from brightcore.procedure.steps.plain import plain
from brightcore.procedure.steps.plugs import plugs
from brightcore.procedure.steps.power_up import power_up
from brightcore.procedure.steps.ready import ready
from brightcore.procedure.steps.routing import routing
from brightcore.procedure.steps.sensors import sensors
from brightcore.procedure.steps.set_and_glue import set_and_glue

FAMILIES: tuple[Family, ...] = (
    ready,
    loom,
    opened,
    hub_wheel,
    mid_drive,
    plugs,
    power_up,
    controller,
    on_the_bar,
    sensors,
    pack,
    module,
    plain,
    routing,
    set_and_glue,
    finish,
)
"""In the order in which their steps come where nothing else says so."""
