"""What would put a finding right, as a changed bike.

Every fix offered has been tried: the finding is gone, and nothing as grave came for it.
"""

from collections.abc import Iterator
from dataclasses import replace
from itertools import islice

from brightcore.analysis.rule import Fix, Shelf
from brightcore.bike.model import Bike
from brightcore.describing.things import under_old_ids
from brightcore.errors import BrightError
from brightcore.findings import SEVERITIES, Finding
from brightcore.wiring.rules import RULES, check_bike, rule_of

MOST_TRIED, MOST_OFFERED = 6, 3
"""Changes of one remedy that are tried, and fixes offered for one finding."""


def has_remedies(code: str) -> bool:
    """Return whether findings of a code have remedies."""
    return any(rule.type.code == code and rule.remedies for rule in RULES)


def fixes_for(bike: Bike, finding: Finding, shelf: Shelf = ()) -> tuple[Fix, ...]:
    """Return what cures a finding, the least change first; empty where nothing tried does."""
    if not has_remedies(finding.code):
        return ()
    found: list[Fix] = []
    for remedy in rule_of(finding.code).remedies:
        for fix in islice(_made(remedy(bike, finding, shelf)), MOST_TRIED):
            if cures(bike, finding, fix.bike):
                found.append(replace(fix, remedy=remedy.__name__))
                break
    return tuple(found[:MOST_OFFERED])


def cures(bike: Bike, finding: Finding, changed: Bike) -> bool:
    """Return whether a finding is gone on the changed bike and nothing as grave has come."""
    before = {(f.code, f.subjects) for f in check_bike(bike)}
    # A swapped part is another thing under another id; a finding that came along with it is not
    # cured.
    after = check_bike(under_old_ids(bike, changed))
    if any((f.code, f.subjects) == (finding.code, finding.subjects) for f in after):
        return False
    grave = SEVERITIES[: SEVERITIES.index(finding.severity) + 1]
    return not any(f.severity in grave and (f.code, f.subjects) not in before for f in after)


def _made(fixes: Iterator[Fix]) -> Iterator[Fix]:
    """Yield fixes until one cannot be made at all."""
    try:
        yield from fixes
    except BrightError:
        return
