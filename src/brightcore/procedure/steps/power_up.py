"""The first power-up: laid out loosely, only what is needed, a touch; mounted and tied is all
afterwards."""

from brightcore.bike.model import Join
from brightcore.bike.roles import role_of
from brightcore.describing.join_edits import remove_join
from brightcore.describing.join_words import port_words
from brightcore.kinds.select import cutting
from brightcore.procedure.first_power_up import PACK
from brightcore.procedure.stands import CONNECT
from brightcore.procedure.step import ANY, ON, WorkStep
from brightcore.procedure.steps.base import CAPS, LEFT_OVER, POWER_UP, WHEEL_UP, Steps, named
from brightcore.procedure.work_case import WorkCase
from brightcore.wiring.live import live_pins

MOST_NAMED = 4


def power_up(case: WorkCase) -> Steps:
    """Wheel up, live ends capped, then a touch."""
    yield WorkStep(
        WHEEL_UP,
        "Wheel off the ground and clear; you know which wheel will turn",
        _held(case),
        power=ANY,
    )
    if not case.tries:
        return
    free = free_live_ends(case)
    if free:
        yield WorkStep(
            CAPS,
            f"Cap what is live and free once the pack is in: {named(free, MOST_NAMED)}",
            (),
            "A free live end that touches the frame is a short of the whole pack.",
            "Each end by itself, so that none can touch another.",
        )
    rows = []
    for join in case.made:
        if case.rank(join) == PACK:
            rows.append(f"{CONNECT}:{join.id}")
    packs = tuple(rows)
    own = tuple(f"{CONNECT}:{join.id}" for join in case.needed)
    if cutting(case.plan, "brake"):
        stop = "a hand on the cut-off"
    else:
        stop = "a hand at the pack's switch"
    yield WorkStep(
        POWER_UP,
        "First power-up: switch on, then only a touch",
        (WHEEL_UP, CAPS, LEFT_OVER, *packs, *own),
        "What does not run is then found after everything is mounted.",
        f"Stand clear of the wheel; {stop}.",
        ON,
    )


def _held(case: WorkCase) -> tuple[str, ...]:
    """Return what holds a motor in the frame: before anything turns, it is tight."""
    found = []
    for part in case.plan.parts:
        found += [f"nuts:{part.id}", f"ring:{part.id}"]
    for part in case.removed:
        found += [f"plain-wheel:{part.id}", f"plain-cranks:{part.id}"]
    return tuple(found)


def free_live_ends(case: WorkCase) -> list[str]:
    """Return the plugs that are live and free in the first power-up, in words."""
    later: list[Join] = [
        join for join in case.made if join not in case.needed and case.rank(join) < PACK
    ]
    trial = case.plan
    for join in later:
        if any(join.id == own.id for own in trial.joins):
            trial = remove_join(trial, join.id)
    live = live_pins(trial)
    found = []
    for join in later:
        for part, port in case.ends(join):
            names = {f"{part.id}.{port.id}.{pin.name}" for pin in port.pins}
            # Either it shares a wire with the pack, or its part puts volts on it once it is
            # switched on.
            gives = any(role_of(pin.role).live for pin in port.pins)
            if gives or names & live:
                found.append(port_words(part, port))
    return list(dict.fromkeys(found))
