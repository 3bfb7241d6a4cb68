"""Rules of the wiring by family. A rule is one decorated function and one line in its family's `RULES`."""

from datetime import date

from brightcore.analysis.bike import analysis_of
from brightcore.analysis.rule import Rule, findings_of
from brightcore.bike.model import Bike
from brightcore.errors import UnknownNameError
from brightcore.findings import Finding
from brightcore.wiring.rules import controls, found, levels, modules, motors, nets, plugs, power, ratings

FAMILIES = (ratings, plugs, nets, controls, levels, motors, modules, power, found)
RULES: tuple[Rule, ...] = tuple(item for family in FAMILIES for item in family.RULES)
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
    """Return all findings of a bike's wiring, gravest first; those that depend on the date only where it is
    given."""
    case = analysis_of(bike)
    return case.remember(("wiring", today), lambda: findings_of(RULES, case, today))
