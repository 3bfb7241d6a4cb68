"""When the pack goes out and in: worked out from what every step asks of it, never written down by
hand.

No plug but the pack's own is moved with the pack in, and nothing is tried while it is out.
"""

from collections.abc import Sequence
from dataclasses import replace

from brightcore.procedure.step import ANY, ON, OUT, PLUG, WorkStep

PACK_OUT, PACK_IN = "pack-out", "pack-in"


def with_pack_moves(steps: Sequence[WorkStep], begins_in: bool) -> tuple[WorkStep, ...]:
    """Return steps in their order, with the pack going out before what is done by hand and in
    before what is tried.

    `begins_in`: whether a pack is connected when the work begins. Each step then needs the move
    before it, and each move the steps that stand before it since the last one.
    """
    found: list[WorkStep] = []
    inside = begins_in
    moved = ""
    since: tuple[str, ...] = ()
    count = {PACK_OUT: 0, PACK_IN: 0}
    for step in steps:
        move = _move_before(step, inside, first=not moved)
        if move:
            count[move] += 1
            made = _step_of(move, count[move], begins_in)
            found.append(replace(made, needs=(*((moved,) if moved else ()), *since)))
            moved, since = made.id, ()
            inside = move == PACK_IN
        if step.power == ANY or not moved:
            needs = step.needs
        else:
            needs = (*step.needs, moved)
        found.append(replace(step, needs=tuple(dict.fromkeys(needs))))
        since = (*since, step.id)
        if step.power == PLUG:
            inside = True
    return tuple(found)


def _move_before(step: WorkStep, inside: bool, first: bool) -> str:
    """Return which way the pack goes before a step, "" where it stays.

    Before the first work by hand it is said to be out even where none is connected yet: whoever
    begins there looks.
    """
    if step.power == OUT and (inside or first):
        return PACK_OUT
    if step.power == PLUG and first:
        return PACK_OUT
    if step.power == ON and not inside:
        return PACK_IN
    return ""


def _step_of(move: str, number: int, begins_in: bool) -> WorkStep:
    name = move if number == 1 else f"{move}:{number}"
    if move == PACK_IN:
        return WorkStep(
            name,
            "Pack in and locked, switched off; then on",
            (),
            "What is tried without it tells nothing.",
            "Nobody's hands at a plug, wheel clear.",
            PLUG,
        )
    words = "Pack off, unplugged and out"
    if number > 1:
        words += " again"
    elif not begins_in:
        words = "Pack stays out: nothing is connected to it yet"
    return WorkStep(name, words, (), "", "No plug is touched while the pack is in.", OUT)
