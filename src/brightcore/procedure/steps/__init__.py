"""Mechanical steps, one family a file; a new one is one line in `FAMILIES`."""

from brightcore.procedure.steps.bar import on_the_bar
from brightcore.procedure.steps.base import Family
from brightcore.procedure.steps.controller import controller_lugs
from brightcore.procedure.steps.crank_motor import mid_drive
from brightcore.procedure.steps.hub import hub_wheel
from brightcore.procedure.steps.inline import module
from brightcore.procedure.steps.pack import pack_mount
from brightcore.procedure.steps.stand import stand_switch

FAMILIES: tuple[Family, ...] = (
    hub_wheel,
    mid_drive,
    on_the_bar,
    pack_mount,
    controller_lugs,
    module,
    stand_switch,
)
