"""A step of the work: what comes before it, what it does to the pack, and how steps come into one
order."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from graphlib import TopologicalSorter

from brightcore.bike.model import Bike
from brightcore.kinds.select import packs
from brightcore.touching import DEAD, NOTHING, PACK, POWERED

ANY, OUT, PLUG, ON = "any", "out", "plug", "on"
"""What a step asks of the pack: nothing; that it is out; that its own plug is put in; that it is in
and on."""


@dataclass(frozen=True, slots=True)
class WorkStep:
    """One step.

    `needs` are ids of steps that come before it, `early` says what skipping them costs; `power` is
    what it asks of the pack, one of ANY, OUT, PLUG and ON; `torque` in words, "" where it has none.
    """

    id: str
    title: str
    needs: tuple[str, ...] = ()
    early: str = ""
    caution: str = ""
    power: str = OUT
    torque: str = ""

    @property
    def powered(self) -> bool:
        """Whether the pack is in while it is done: it then has to be a safe one."""
        return self.power in (PLUG, ON)

    @property
    def holds_back(self) -> bool:
        """Whether no job is handed over before it is done: it has a caution or a torque of its
        own."""
        return bool(self.caution or self.torque)


def touched_by(step: WorkStep, bikes: Iterable[Bike]) -> str:
    """Return what a step touches, as `touching` names it: by its power, and by whether what it is
    about is a pack, or a plug at a pack, on one of some descriptions of the bike.

    Taking a pack out is always right, and touches nothing that would keep anybody from it.
    """
    if step.powered:
        return POWERED
    subject = set(step.id.partition(":")[2].replace(".", ":").split(":"))
    for bike in bikes:
        ids = {pack.id for pack in packs(bike)}
        plugs = {join.id for join in bike.joins if ids & {join.a_part, join.b_part}}
        if subject & (ids | plugs) and not step.id.startswith(TAKEN_OUT):
            return PACK
    return DEAD if step.power == OUT else NOTHING


TAKEN_OUT = ("pack-out", "disconnect:", "remove:")
"""Steps that only take something away."""


def in_order(steps: Sequence[WorkStep]) -> tuple[WorkStep, ...]:
    """Return the steps in an order that keeps every need and moves the pack as seldom as it can.

    Of what could come next, whatever leaves the pack where it is comes first, otherwise the steps
    stay as given. Needs that no step has are left out. Raises graphlib.CycleError where needs go
    round in a circle.
    """
    by_id = {step.id: step for step in steps}
    place = {step.id: n for n, step in enumerate(steps)}
    sorter: TopologicalSorter[str] = TopologicalSorter()
    for step in steps:
        sorter.add(step.id, *(name for name in step.needs if name in by_id))
    sorter.prepare()
    found: list[WorkStep] = []
    waiting: list[str] = []
    inside = False
    while sorter.is_active():
        waiting += sorter.get_ready()
        waiting.sort(key=lambda name: (_moves_pack(by_id[name], inside), place[name]))
        step = by_id[waiting.pop(0)]
        inside = step.powered or (inside and step.power == ANY)
        found.append(step)
        sorter.done(step.id)
    return tuple(found)


def _moves_pack(step: WorkStep, inside: bool) -> bool:
    """Return whether the pack has to go in or out before a step."""
    if step.power == ANY:
        return False
    return (step.power == OUT) == inside


def missing(step: WorkStep, done: Iterable[str]) -> tuple[str, ...]:
    """Return the ids of steps that should have been done before this one and are not."""
    have = set(done)
    return tuple(n for n in step.needs if n not in have)
