"""Whether parts of a donor bike may be lent to another: checked by the rules before anything is
connected."""

from dataclasses import dataclass

from brightcore.bike.model import Bike, Part
from brightcore.describing.swap import swap_part
from brightcore.describing.things import under_old_ids
from brightcore.findings import Finding, render
from brightcore.kinds.select import motors
from brightcore.matching.rules import match_findings
from brightcore.wiring.rules import check_bike

GRAVE = ("danger", "fault")
"""Severities of findings that speak against lending a part."""


@dataclass(frozen=True, slots=True)
class Spare:
    """A donor's part that could stand in for one, and why it should not."""

    part: Part
    problems: tuple[str, ...]


def spare_of(bike: Bike, part: Part, donor: Bike) -> Spare | None:
    """Return the donor's part of the same kind that fits best in a part's place; None where it has
    none."""
    alike = [other for other in donor.parts if other.kind == part.kind]
    tried = (Spare(other, lending_problems(bike, part.id, other)) for other in alike)
    return min(tried, key=lambda spare: len(spare.problems), default=None)


def lending_problems(bike: Bike, part_id: str, other: Part) -> tuple[str, ...]:
    """Return why another bike's part should not stand in for a part: plugs that do not fit, else
    what the rules would find that they do not find now. Empty where nothing speaks against
    it."""
    changed = swap_part(bike, part_id, other.kind, other.name, other.spec, other.ports)
    known = {_place(finding) for finding in _grave(bike)}
    plugs = tuple(f"Does not connect: {words}." for words in changed.lost)
    rows = []
    for finding in _grave(under_old_ids(bike, changed.bike)):
        if _place(finding) not in known:
            rows.append(render(finding))
    new = tuple(rows)
    return plugs or new


def half_problems(bike: Bike, donor: Bike) -> dict[str, tuple[str, ...]]:
    """Return by half of a donor (`motor`, `drive`) why it should not be lent."""
    mine, theirs = motors(bike), motors(donor)
    if not mine or not theirs:
        none = ("There is no motor on both bikes.",)
        return {"motor": none, "drive": none}
    return {
        "motor": lending_problems(bike, mine[0].id, theirs[0]),
        "drive": lending_problems(donor, theirs[0].id, mine[0]),
    }


def _grave(bike: Bike) -> list[Finding]:
    found = (*check_bike(bike), *match_findings(bike))
    return [finding for finding in found if finding.severity in GRAVE]


def _place(finding: Finding) -> tuple[str, tuple[str, ...]]:
    return finding.code, finding.subjects
