"""Proposing joins: which free plug belongs to which, why, and what could not be decided."""

from dataclasses import dataclass, replace

from brightcore.analysis.bike import analysis_of
from brightcore.bike.mating import fit_in_hand, one_make, propose_pairs
from brightcore.bike.model import Bike, Part, Port
from brightcore.bike.roles import role_of, telling
from brightcore.circuit.nets import Nets
from brightcore.describing.join_edits import add_join
from brightcore.describing.join_words import port_words
from brightcore.errors import BikeError
from brightcore.kinds import REGISTRY

LEAST_SCORE = 0.55
SAME = 0.04
"""Least fit that is proposed, and the difference in fit below which two proposals are equally
good."""


@dataclass(frozen=True, slots=True)
class JoinProposal:
    """Two free plugs that belong together: `certain`, or with equally good `others` for one of
    them."""

    one: str
    two: str
    words: str
    reason: str
    score: float
    certain: bool
    others: tuple[str, ...]
    pairs: tuple[tuple[str, str], ...]


Fit = tuple[float, tuple[tuple[str, str], ...]]


MOST_ROUNDS = 5
"""Rounds of proposals: what a cable's far end is joined to tells what its near end carries."""


def propose_joins(bike: Bike) -> tuple[JoinProposal, ...]:
    """Return a proposal for every free plug that has a partner, in the order to accept them; every
    plug is used once.

    A cable on the bike is there to be used: two plugs that it could link are not proposed directly.
    What a cable's far end is joined to tells what its wires carry, so proposals are made in rounds.
    """
    found: list[JoinProposal] = []
    for _ in range(MOST_ROUNDS):
        fresh = _round(bike)
        if not fresh:
            break
        found += fresh
        bike = accept(bike, fresh)
    return tuple(found)


def fits_of(bike: Bike) -> dict[str, tuple[str, ...]]:
    """Return for every free plug the free plugs that it can be joined to at all: other part,
    something in common, no two makes of plug."""
    free = []
    for p in bike.parts:
        for q in p.ports:
            if not any(bike.joins_of(p.id, q.id)):
                free.append((p, q))
    found: dict[str, tuple[str, ...]] = {_id(end): () for end in free}
    for i, a in enumerate(free):
        for b in free[i + 1 :]:
            if _can_mate(a, b):
                found[_id(a)] += (_id(b),)
                found[_id(b)] += (_id(a),)
    return found


def _can_mate(a: tuple[Part, Port], b: tuple[Part, Port]) -> bool:
    if a[0].id == b[0].id or not one_make(a[1], b[1]):
        return False
    try:
        return bool(propose_pairs(a[1], b[1]))
    except BikeError:
        return False


def _round(bike: Bike) -> tuple[JoinProposal, ...]:
    """Return what can be proposed from what is known now, best fit first."""
    nets = analysis_of(bike).nets
    free = []
    for p in bike.parts:
        for q in p.ports:
            if not any(bike.joins_of(p.id, q.id)):
                free.append((p, _known(nets, p, q)))
    fits: dict[tuple[int, int], Fit] = {}
    for i, a in enumerate(free):
        for k in range(i + 1, len(free)):
            fit = _fit(a, free[k])
            if fit is not None and fit[0] >= LEAST_SCORE:
                fits[i, k] = fit
    linked = _linked(free, fits)
    order = sorted(
        fits,
        key=lambda pair: (
            # Two plugs that a loose cable could link come after everything else: a cable that lies
            # there was bought to be used.
            -fits[pair][0] + 2.0 * (pair in linked),
            _id(free[pair[0]]),
            _id(free[pair[1]]),
        ),
    )
    used: set[int] = set()
    chosen = []
    for pair in order:
        if used & set(pair):
            continue
        used |= set(pair)
        a, b = free[pair[0]], free[pair[1]]
        score, pairs = fits[pair]
        near = []
        for other in order:
            if (
                other != pair
                and len(set(other) & set(pair)) == 1
                # Nearly as good is as good: a proposal with a rival is shown with it and never
                # taken by "Connect all".
                and score - fits[other][0] < SAME
                and other not in linked
            ):
                near.append(other)
        rivals = tuple(
            dict.fromkeys(
                _id(free[other[0] if other[0] not in pair else other[1]]) for other in near
            )
        )
        words = f"{port_words(*a)} with {port_words(*b)}"
        chosen.append(
            JoinProposal(
                _id(a), _id(b), words, _reason(a, b, pairs), score, not rivals, rivals, pairs
            )
        )
    return tuple(chosen)


def _known(nets: Nets, part: Part, port: Port) -> Port:
    """Return a port with the roles that its plain wires already have from the far end of a
    cable."""
    pins = []
    for pin in port.pins:
        if pin.role == "wire":
            roles = nets.roles_of(f"{part.id}.{port.id}.{pin.name}")
        else:
            roles = set()
        role = telling(roles) or (next(iter(roles)) if len(roles) == 1 else "wire")
        if role_of(role).polarity and {pin.name, role_of(role).polarity} == {"plus", "minus"}:
            role = "wire"  # a series lead: this end stands on the other pole of another pack
        pins.append(replace(pin, role=role) if pin.role == "wire" else pin)
    return replace(port, pins=tuple(pins))


def _linked(
    free: list[tuple[Part, Port]], fits: dict[tuple[int, int], Fit]
) -> set[tuple[int, int]]:
    """Return the direct pairs that a free cable or module could link by two of its ends."""
    partners: dict[int, dict[str, set[str]]] = {}
    for pair in fits:
        for one, two in (pair, (pair[1], pair[0])):
            if REGISTRY[free[two][0].kind].inline and not REGISTRY[free[one][0].kind].inline:
                partners.setdefault(one, {}).setdefault(free[two][0].id, set()).add(free[two][1].id)
    found = set()
    for i, k in fits:
        if any(REGISTRY[free[n][0].kind].inline for n in (i, k)):
            continue
        left, right = partners.get(i, {}), partners.get(k, {})
        if any(cable in right and len(left[cable] | right[cable]) > 1 for cable in left):
            found.add((i, k))
    return found


def _id(end: tuple[Part, Port]) -> str:
    return f"{end[0].id}.{end[1].id}"


def _fit(
    a: tuple[Part, Port], b: tuple[Part, Port]
) -> tuple[float, tuple[tuple[str, str], ...]] | None:
    """Return (fit from 0 to 1, pin pairs) of two plugs, or None where they cannot mate."""
    (part, port), (other, mate) = a, b
    if part.id == other.id or _turned(part, port, other) or _turned(other, mate, part):
        return None
    typed = []
    for q in (port, mate):
        typed.append(any(pin.role != "wire" for pin in q.pins))
    places = [REGISTRY[p.kind].place for p in (part, other)]
    # Two parts of one place (both at the bar) do not plug into each other, unless one hands
    # something on, as a splitter does.
    hands_on = any(tuple(REGISTRY[p.kind].links(p)) for p in (part, other))
    if not any(typed) or (places[0] == places[1] and places[0] != "between" and not hands_on):
        return None
    try:
        pairs = propose_pairs(port, mate)
    except BikeError:
        return None
    if not one_make(port, mate):
        return None
    share = len(pairs) / max(len(port.pins), len(mate.pins))
    small = len(pairs) / min(len(port.pins), len(mate.pins))
    # Every pin of the smaller plug has to find a mate. What remains in the larger one is
    # usual: not all bikes use all wires.
    if small < 1.0:
        return None
    named = sum(p == q for p, q in pairs) / len(pairs)
    if all(typed):
        # Roles that match count most, then how much of the plug is used, then equal names of pins,
        # then the make of plug and words in common. Plain wires on one side prove less and begin
        # lower.
        score = 0.55 + 0.25 * share + 0.1 * named
    else:
        score = 0.45 * share + 0.2 * named
    score += (0.1 if all(typed) else 0.15) if port.family == mate.family else 0.0
    return score + 0.1 * _alike(a, b), pairs


def _turned(module: Part, port: Port, other: Part) -> bool:
    """Return whether a module in a line would stand the wrong way round with another part at this
    plug."""
    sides = REGISTRY[module.kind].sides
    wanted = sides.get(port.id)
    return wanted is not None and other.kind != wanted and other.kind in sides.values()


def _alike(a: tuple[Part, Port], b: tuple[Part, Port]) -> float:
    """Return how many of the shorter plug's words stand in the other's name and label."""
    one, two = _telling_words(*a), _telling_words(*b)
    return len(one & two) / max(min(len(one), len(two)), 1)


def _telling_words(part: Part, port: Port) -> set[str]:
    """Return the words of a plug's part and label."""
    words = f"{part.name} {port.label}".lower().replace("-", " ").split()
    # Nearly every plug is called one, and half of them sit on a sensor: these tell nothing.
    return set(words) - {"plug", "sensor"}


def _reason(a: tuple[Part, Port], b: tuple[Part, Port], pairs: tuple[tuple[str, str], ...]) -> str:
    left = {pin.name: pin.words for pin in a[1].pins}
    right = {pin.name: pin.words for pin in b[1].pins}
    meets = ", ".join(
        left[p] if left[p] == right[q] else f"{left[p]} to {right[q]}" for p, q in pairs
    )
    mated_left = {p for p, _ in pairs}
    mated_right = {q for _, q in pairs}
    lonely = [left[p] for p in left if p not in mated_left]
    lonely += [right[q] for q in right if q not in mated_right]
    words = meets + (f"; without a mate: {', '.join(lonely)}" if lonely else "")
    moved = _moved(a[1], b[1], pairs)
    return words + (f"; pins must be moved first: {moved}" if moved else "")


def _moved(one: Port, two: Port, pairs: tuple[tuple[str, str], ...]) -> str:
    """Return by number which pin must come to which, "" where the plugs meet straight or as one
    likes."""
    if not fit_in_hand(one, two):
        return ""
    first = {pin.name: n for n, pin in enumerate(one.pins, 1)}
    second = {pin.name: n for n, pin in enumerate(two.pins, 1)}
    return ", ".join(f"{first[p]} to {second[q]}" for p, q in pairs if first[p] != second[q])


def accept(bike: Bike, proposals: tuple[JoinProposal, ...]) -> Bike:
    """Return the bike with proposals joined, in order. Raises BikeError where one does not fit any
    more."""
    for item in proposals:
        bike = add_join(bike, item.one, item.two, pairs=item.pairs)
    return bike
