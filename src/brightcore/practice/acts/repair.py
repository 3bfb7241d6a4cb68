"""Do a repair: whether it was the right one, the bike shows."""

from collections.abc import Iterator
from dataclasses import replace

from brightcore.matching.cost import LEVELS
from brightcore.practice.acts.base import Act, Choice, Done, Play, Said, careless, one_of
from brightcore.practice.state import State
from brightcore.tracing.hypotheses import NONE_REPAIR, OTHER_REPAIR


class Repair(Act):
    """Do one repair of all that this bike may need."""

    key, group = "repair", "Repair"

    def choices(self, play: Play, state: State) -> Iterator[Choice]:
        """Every repair of the bike, by the part or plug it is about."""
        titles = {**play.names}
        for repair in play.engine.hypotheses.repairs:
            if repair.describes or repair.id in (NONE_REPAIR.id, OTHER_REPAIR.id):
                continue
            yield Choice(
                (("repair", repair.id),), repair.action, titles.get(repair.owner, "Plugs and wires")
            )

    def do(self, play: Play, state: State, said: Said) -> Done:
        """Do it: minutes and parts are spent, right or not."""
        repairs = {repair.id: repair for repair in play.engine.hypotheses.repairs}
        repair = repairs[one_of(said.get("repair", ""), tuple(repairs), "repair")]
        if state.power != "out" and not repair.of_setting:
            return careless(state, "plug-live")
        cost = LEVELS[min(repair.cost_level, len(LEVELS) - 1)]
        after = replace(state, gone=tuple(dict.fromkeys((*state.gone, repair.id))), brought="")
        return Done(after, "Done. Now show that it works.", repair.minutes, cost=cost)
