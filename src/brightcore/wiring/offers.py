"""What is offered of the proposals: none that makes a fault which nothing mends; what fits
instead."""

from dataclasses import dataclass

from brightcore.analysis.rule import Shelf
from brightcore.bike.mating import one_make, propose_pairs
from brightcore.bike.model import Bike, Part, Port
from brightcore.errors import BrightError
from brightcore.findings import Finding, hint, render
from brightcore.wiring.fixes import fixes_for
from brightcore.wiring.propose import JoinProposal, accept, propose_joins
from brightcore.wiring.rules import check_bike

GRAVE = ("danger", "fault")
MOST_NAMED = 3
"""Parts of the library that are named, at most, where a plug finds no partner on the bike."""


@dataclass(frozen=True, slots=True)
class HeldBack:
    """Two plugs that would go together and are not offered: why, and what of the library fits
    instead."""

    words: str
    why: str
    instead: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Offers:
    """Proposals that may be accepted, and those that are held back."""

    proposals: tuple[JoinProposal, ...]
    held_back: tuple[HeldBack, ...]

    @property
    def certain(self) -> tuple[JoinProposal, ...]:
        """Those without a rival: what is connected by one press."""
        return tuple(item for item in self.proposals if item.certain)


def offers_of(bike: Bike, shelf: Shelf = ()) -> Offers:
    """Return what is offered of the proposals for a bike, once all of them were tried together.

    One is held back where it makes a fault or danger that nothing mends. `shelf`: parts at hand.
    """
    left = propose_joins(bike)
    held_back: list[HeldBack] = []
    before = {(f.code, f.subjects) for f in check_bike(bike)}
    while left:
        made = accept(bike, left)
        # All proposals are made at once and the worst offender taken out, until what is left harms
        # nothing. One by one they would each look harmless where only two together are not.
        bad = _first_bad(bike, made, left, before, shelf)
        if bad is None:
            break
        item, finding = bad
        why = f"{render(finding)} {hint(finding)}"
        held_back.append(HeldBack(item.words, why, _fitting(bike, item, shelf)))
        left = tuple(other for other in left if other is not item)
    return Offers(left, tuple(held_back))


def _first_bad(
    bike: Bike,
    made: Bike,
    proposals: tuple[JoinProposal, ...],
    before: set[tuple[str, tuple[str, ...]]],
    shelf: Shelf,
) -> tuple[JoinProposal, Finding] | None:
    """Return the first proposal that makes a finding which nothing mends, with it; None where none
    does."""
    for finding in check_bike(made):
        if finding.severity not in GRAVE or (finding.code, finding.subjects) in before:
            continue
        item = next((p for p in proposals if _is_about(made, p, finding)), None)
        if item is not None and not fixes_for(made, finding, shelf):
            return item, finding
    return None


def _is_about(made: Bike, item: JoinProposal, finding: Finding) -> bool:
    """Return whether a finding is about the connection that a proposal makes."""
    ends = {item.one, item.two}
    for subject in finding.subjects:
        if subject.count(".") == 2 and subject.rpartition(".")[0] in ends:
            return True
        if subject in ends:
            return True
    joins = {}
    for join in made.joins:
        joins[join.id] = {".".join(side) for side in join.sides()}
    if any(joins.get(subject) == ends for subject in finding.subjects):
        return True
    parts = {end.partition(".")[0] for end in ends}
    named = set(finding.subjects) & parts
    # A part with one plug has nothing else that it could be about.
    return any(len(made.part(name).ports) == 1 for name in named)


def _fitting(bike: Bike, item: JoinProposal, shelf: Shelf) -> tuple[str, ...]:
    """Return the parts at hand with a plug that takes all of the smaller part's wires."""
    ends = []
    for end in (item.one, item.two):
        part_id, _, port_id = end.partition(".")
        part = bike.part(part_id)
        ends.append((part, part.port(port_id)))
    part, port = min(ends, key=lambda end: len(end[0].ports))
    names = (other.name for other in shelf if other.kind != part.kind and _takes(other, port))
    return tuple(dict.fromkeys(names))[:MOST_NAMED]


def _takes(other: Part, port: Port) -> bool:
    """Return whether a part has a plug that takes every wire of a port."""
    for own in other.ports:
        if not one_make(own, port) or any(pin.role == "wire" for pin in own.pins):
            continue
        try:
            pairs = propose_pairs(own, port)
        except BrightError:
            continue
        if len(pairs) == len(port.pins):
            return True
    return False
