"""Whether parts of a donor bike may be lent to another: checked by the rules before anything is
connected."""

from collections import Counter
from dataclasses import dataclass, replace

from brightcore.bike.mating import fit_in_hand, pairs_by_hand
from brightcore.bike.model import Bike, Join, Part
from brightcore.describing.edit import kept_frame
from brightcore.describing.swap import swap_part
from brightcore.describing.things import under_old_ids
from brightcore.findings import Finding, render
from brightcore.kinds.select import motors
from brightcore.matching.rules import match_findings
from brightcore.tracing.behind import Behind, all_behind, words_behind
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


def behind_problems(bike: Bike, donor: Bike) -> dict[str, tuple[str, ...]]:
    """Return by test of what a donor has behind a plug why it should not be lent."""
    found = {}
    for behind in all_behind(bike):
        tried = []
        for other in all_behind(donor):
            if fit_in_hand(behind.port(bike), other.port(donor)):
                tried.append(_graft_problems(bike, behind, donor, other))
        nothing = (f"No plug of the donor fits that has {words_behind(bike, behind)} behind it.",)
        found[f"behind {behind.join}"] = min(tried, key=len, default=nothing)
    return found


LENT = "lent_"
"""Begins the ids of a donor's parts while they are tried on another bike."""


def _graft_problems(bike: Bike, mine: Behind, donor: Bike, theirs: Behind) -> tuple[str, ...]:
    """Return why what a donor has behind a plug should not hang on a bike: what is missing of it,
    else what the rules would find that they do not find now."""
    there = Counter(donor.part(part).kind for part in theirs.parts)
    missing = []
    for part in bike.parts:
        if part.id in mine.parts:
            there[part.kind] -= 1
            if there[part.kind] < 0:
                missing.append(f"The donor has no {part.name.lower()} behind that plug.")
    if missing:
        return tuple(missing)
    known = {_place(finding) for finding in _grave(bike)}
    found = []
    for finding in _grave(_grafted(bike, mine, donor, theirs)):
        subjects = tuple(subject.replace(LENT, "") for subject in finding.subjects)
        if (finding.code, subjects) not in known:
            found.append(render(finding))
    return tuple(found)


def _grafted(bike: Bike, mine: Behind, donor: Bike, theirs: Behind) -> Bike:
    """Return a bike with a donor's parts behind one of its plugs."""
    parts = [part for part in bike.parts if part.id not in mine.parts]
    joins = [join for join in bike.joins if join.id not in mine.joins | {mine.join}]
    for part in donor.parts:
        if part.id in theirs.parts:
            parts.append(replace(part, id=LENT + part.id))
    for join in donor.joins:
        if join.id in theirs.joins:
            a_part, b_part = LENT + join.a_part, LENT + join.b_part
            joins.append(replace(join, id=LENT + join.id, a_part=a_part, b_part=b_part))
    pairs = pairs_by_hand(bike.part(mine.at[0]).port(mine.at[1]), theirs.port(donor))
    end_part, end_port = theirs.end
    joins.append(Join(mine.join, *mine.at, LENT + end_part, end_port, pairs))
    settings = tuple(item for item in bike.settings if item.part not in mine.parts)
    measured = tuple(item for item in bike.measured if item.part not in mine.parts)
    made = replace(
        bike, parts=tuple(parts), joins=tuple(joins), settings=settings, measured=measured
    )
    return kept_frame(made)


def _grave(bike: Bike) -> list[Finding]:
    found = (*check_bike(bike), *match_findings(bike))
    return [finding for finding in found if finding.severity in GRAVE]


def _place(finding: Finding) -> tuple[str, tuple[str, ...]]:
    return finding.code, finding.subjects
