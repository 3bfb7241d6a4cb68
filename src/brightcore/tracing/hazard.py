"""What was smelt, sparked, smoked, ran hot or got wet: dead tests first, nothing switched on until
clean.

After a burnt smell: pack out, look and smell at each plug, ohms across the controller's battery
plug, phases to plus and minus, then power only through a limit or a series lamp (common practice).
"""

import math
import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from brightcore.errors import ReadingError
from brightcore.kinds.select import controllers
from brightcore.tracing.engine import Engine
from brightcore.tracing.evidence import Evidence
from brightcore.tracing.tests import Test, test_id
from brightcore.units import parse_quantity

CLEAN_OHM, CLEAN_DIODE_V = 1000.0, 0.2
"""Across a sound controller's battery plug a meter shows more, rising; across a sound switch more
than this (common practice)."""


SHORT_OHM, SHORT_DIODE_V = 10.0, 0.1
"""Less than this is a short, not only unclear (common practice)."""


@dataclass(frozen=True, slots=True)
class Told:
    """A hazard that is told: the words it goes by, and what is said of it."""

    words: str
    text: str


HAZARDS = {
    "burnt": Told(r"burn\w*|singed|scorch\w*|melt\w*|charred", "It smelled or looks burnt"),
    "smoke": Told(r"smok\w*|fumes?|flames?|fire", "It smoked"),
    "sparks": Told(r"spark\w*|arc(?:ed|ing)|flash(?:ed)?|bang|popped", "It sparked"),
    "hot": Told(r"hot|overheat\w*|glow\w*", "Something ran hot"),
    # The weather is no hazard, water in the parts is.
    "wet": Told(
        r"(?:got|is|was|were|soaking|dripping|still|all) wet|wet "
        r"inside|soaked|flood\w*|drown\w*|submerged"
        r"|under water|water in(?:side)?",
        "It was wet",
    ),
    "short": Told(
        r"short(?:ed|s| circuit|-circuit)\w*|fuse blew|blown fuse|blew (?:a|the) fuse",
        "A short is suspected",
    ),
}
"""Hazards that a complaint tells, by code; permanent."""

TICKED = {"smell": "burnt", "tingle": "short"}
"""What a rider tells by a tick, as a hazard."""

FIRST = (
    "Pack out. Before anything is switched on: look and smell at each plug, then ohms across the "
    "controller's battery plug, then its phases to plus and minus (Trace proposes them). Clean? "
    "Then through a bench supply's limit, a small fuse or a series lamp."
)
"""What is done first, whatever was told."""

_NOT = r"(?:no|not|never|without|isn't|wasn't|nothing)\s+(?:\w+\s+){0,2}"


def told_in(text: str) -> tuple[str, ...]:
    """Return the hazards that a complaint tells; what it denies is none.

    >>> told_in("Smelled burnt, then dead"), told_in("Dead, no smoke"), told_in("Slow on a hill")
    (('burnt',), (), ())
    """
    plain = text.lower()
    found = []
    for code, told in HAZARDS.items():
        # "No smoke" must not bring the bench to a stop, "no light, smoke" must. So only the words
        # right after a denial are taken out, and the rest is read.
        denied = re.sub(rf"\b{_NOT}(?:{told.words})\b", " ", plain)
        if re.search(rf"\b(?:{told.words})\b", denied):
            found.append(code)
    return tuple(found)


def seen_in(items: Iterable[Evidence]) -> tuple[str, ...]:
    """Return the hazards that evidence tells: a tick of the rider, or a smell that was found."""
    found = []
    for item in items:
        if item.kind == "past" and item.value in TICKED:
            found.append(TICKED[item.value])
        elif item.kind == "smell" and item.value == "burnt":
            found.append("burnt")
    return tuple(dict.fromkeys(found))


def dead_checks(engine: Engine) -> tuple[Test, ...]:
    """Return the tests without power that come first: smells, ohms across each battery plug, the
    diodes."""
    smells = [test for test in engine.tests if test.kind == "smell"]
    across = [test for test in engine.tests if _is_across(engine, test)]
    diodes = [test for test in engine.tests if test.kind == "diode"]
    return (*smells, *across, *diodes)


def _is_across(engine: Engine, test: Test) -> bool:
    """Return whether a test reads ohms from plus to minus of a controller's own battery plug."""
    if test.kind != "ohms" or not test.condition.unplugged:
        return False
    own = {part.id for part in controllers(engine.bike)}
    ends = []
    for pin in (test.red, test.black):
        if pin.partition(".")[0] in own:
            ends.append(pin)
    # Across plus and minus of one part alone: a reading through the loom would show what hangs on
    # it, not the power stage.
    if len(ends) < 2:
        return False
    roles = {engine.bike.pin(pin)[2].role for pin in ends}
    return roles == {"battery_plus", "battery_minus"}


def left_to_check(
    engine: Engine, evidence: Sequence[Evidence], skip: frozenset[str] = frozenset()
) -> tuple[Test, ...]:
    """Return the dead tests that were not made yet, or were not clean; a smell counts once it was
    smelt.

    A smell that cannot be tried here (`skip`) is left out; readings are not.
    """
    best: dict[str, bool] = {}
    for item in evidence:
        if not item.told:
            # The last reading counts: a short that was put right reads clean afterwards, one that
            # came back does not.
            best[test_id(item)] = is_clean(item)
    left = []
    for test in dead_checks(engine):
        if test.kind == "smell" and test.id in skip:
            continue
        if not best.get(test.id, False):
            left.append(test)
    return tuple(left)


def is_short(engine: Engine, item: Evidence) -> bool:
    """Return whether a dead reading of a controller is a short: nothing is switched on with it."""
    if test_id(item) not in {test.id for test in dead_checks(engine) if test.kind != "smell"}:
        return False
    try:
        if item.kind == "ohms":
            return parse_quantity(item.value, "Ω") < SHORT_OHM
        return parse_quantity(item.value, "V") < SHORT_DIODE_V
    except ReadingError:
        return False


def is_clean(item: Evidence) -> bool:
    """Return whether a dead reading speaks of no short; a smell is no reading, it counts once it is
    made."""
    if item.kind == "smell":
        return True
    try:
        if item.kind == "ohms":
            return parse_quantity(item.value, "Ω") >= CLEAN_OHM
        value = parse_quantity(item.value, "V")
        return math.isinf(value) or value >= CLEAN_DIODE_V
    except ReadingError:
        return False
