"""What comes apart, and what is left over of it."""

from brightcore.bike.model import Port
from brightcore.describing.join_words import port_words
from brightcore.procedure.stands import DISCONNECT
from brightcore.procedure.step import WorkStep
from brightcore.procedure.steps.base import LABELS, LEFT_OVER, Steps, named, remove
from brightcore.procedure.work_case import SOLDERED, WorkCase

MOST_NAMED = 4


def loom(case: WorkCase) -> Steps:
    """Every connection that is taken apart, the thin ones first; then what is left over is
    capped."""
    ranked = sorted(case.apart, key=case.rank)
    for join in ranked:
        by_hand = any(soldered(port) for _, port in case.ends(join))
        yield WorkStep(
            f"{DISCONNECT}:{join.id}",
            f"Disconnect {case.words(join)}",
            (LABELS,),
            "A wire pulled out of its plug is a fault for the next visit.",
            "One conductor at a time, each end insulated before the next."
            if by_hand
            else "Pull at the plug, never at the wire.",
        )
    left = left_over_plugs(case)
    if left:
        gone = {remove(part) for part in case.removed}
        yield WorkStep(
            LEFT_OVER,
            f"Left over: {named(left, MOST_NAMED)}. Label, cap, tie where it cannot chafe",
            (*(f"{DISCONNECT}:{join.id}" for join in ranked), *sorted(gone)),
            "An open plug shorts in the first rain.",
        )


def left_over_plugs(case: WorkCase) -> list[str]:
    """Return the plugs that stay on the bike and lost their mate for good, in words."""
    staying = {part.id for part in case.plan.parts}
    found = []
    for join in case.apart:
        for part, port in case.ends(join):
            if part.id in staying and not any(case.plan.joins_of(part.id, port.id)):
                found.append(port_words(part, port))
    return list(dict.fromkeys(found))


def soldered(port: Port) -> bool:
    """Return whether an end has no plug: its wires are soldered or crimped by hand."""
    return port.family.partition("-")[0] == SOLDERED
