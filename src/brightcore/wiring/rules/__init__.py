"""Rules of the wiring by family. A rule is one decorated function and one line in its family's
`RULES`."""

from datetime import date

from brightcore.analysis.bike import analysis_of
from brightcore.analysis.rule import Rule, by_gravity, findings_of
from brightcore.bike.model import Bike
from brightcore.errors import UnknownNameError
from brightcore.findings import Finding
from brightcore.wiring.rules import (
    controls,
    found,
    levels,
    modules,
    motors,
    nets,
    plugs,
    power,
    ratings,
    tried,
)
from brightcore.wiring.straight import straightened

FAMILIES = (ratings, plugs, nets, controls, levels, motors, modules, power, found)
DESCRIBED: tuple[Rule, ...] = tuple(item for family in FAMILIES for item in family.RULES)
"""Rules that read the description alone."""

RULES: tuple[Rule, ...] = (*DESCRIBED, *tried.RULES)
_BY_CODE = {item.type.code: item for item in RULES}


def rule_of(code: str) -> Rule:
    """Return the rule of a code; raises UnknownNameError."""
    try:
        return _BY_CODE[code]
    except KeyError:
        raise UnknownNameError("rule", code, tuple(_BY_CODE)) from None


def check_ratings(bike: Bike) -> tuple[Finding, ...]:
    """Return what parts, fuses and wires of a bike are too weak for, gravest first."""
    case = analysis_of(bike)
    return case.remember("ratings", lambda: findings_of((*ratings.RULES, *power.RULES), case))


def check_bike(bike: Bike, today: date | None = None) -> tuple[Finding, ...]:
    """Return all findings of a bike's wiring, gravest first; those that depend on the date only
    where it is given."""
    case = analysis_of(straightened(bike))
    return case.remember(("wiring", today), lambda: findings_of(DESCRIBED, case, today))


def check_whole(bike: Bike, today: date | None = None) -> tuple[Finding, ...]:
    """Return all findings of a bike's wiring, and what its circuit shows when it is tried; gravest
    first."""
    case = analysis_of(straightened(bike))
    tried_too = case.remember("tried", lambda: findings_of(tried.RULES, case))
    return by_gravity((*check_bike(bike, today), *tried_too))
