"""Routes: the way of every cable along the frame, the length it needs, and whether what is there is
long enough.

All allowances are common practice, no published source.
"""

import heapq
from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass, replace
from itertools import count

from brightcore.bike.model import Bike, Frame, Join, Part
from brightcore.describing.join_words import port_words
from brightcore.errors import BikeError, UnknownNameError
from brightcore.kinds import REGISTRY
from brightcore.kinds.cable import SPLICE_M, conductors
from brightcore.kinds.controller import Controller
from brightcore.kinds.select import as_cable, motors
from brightcore.wiring.frames import FRAMES, SLACK_M, FramePattern, Stretch

SERVICE_LOOP_M, END_M = 0.10, 0.05
"""Loop left at a controller, so that its plug can be reached, and what is left at any other end."""

TIE_EVERY_M = 0.20
LONG_M, LONG_RATIO = 0.25, 0.25
"""A cable is too long where more than both of these is left over."""

JOINT_COST_M, RISK_COST_M = 0.10, 0.15
"""A detour up to this length is taken rather than cross a joint or run wet or hot."""


@dataclass(frozen=True, slots=True)
class Run:
    """One cable's way from one plug to another: `cables` and `joins` make it up. A length of 0 is
    "not measured".

    `loops_m` is what is left at both ends; `trouble` is what stands against the way itself: no
    path, or a refused one.
    """

    id: str
    title: str
    ends: tuple[str, str]
    places: tuple[str, str]
    cables: tuple[str, ...]
    joins: tuple[str, ...]
    core_count: int
    path: tuple[Stretch, ...]
    has_m: float
    loops_m: float
    trouble: str = ""

    @property
    def along_m(self) -> float:
        """Length of the way along the frame, in m."""
        return sum(s.length_m for s in self.path)

    @property
    def joints(self) -> tuple[str, ...]:
        """Moving joints on the way, in order."""
        return tuple(s.joint for s in self.path if s.joint)

    @property
    def slack_m(self) -> float:
        """Slack for every joint on the way."""
        return sum(SLACK_M[j] for j in self.joints)

    @property
    def wanted_m(self) -> float:
        """Length the cable needs: way, slack, and a loop at either end."""
        return self.along_m + self.slack_m + self.loops_m

    @property
    def verdict(self) -> str:
        """One of "refused", "unknown", "short", "long", "fits"."""
        over = self.has_m - self.wanted_m
        if self.trouble:
            return "refused"
        if self.has_m == 0:
            return "unknown"
        if over < -0.005:
            return "short"
        if over > max(LONG_M, LONG_RATIO * self.wanted_m):
            return "long"
        return "fits"

    @property
    def risks(self) -> tuple[str, ...]:
        """Risks on the way, each once."""
        return tuple(dict.fromkeys(s.risk for s in self.path if s.risk))


def guess_frame(bike: Bike) -> str:
    """Return the frame a bike is most like, from what it is said to be and what it drives."""
    # Only until somebody says which frame it is: a guess from the words decides where to begin
    # measuring.
    words = f"{bike.info.label} {bike.info.description}".lower()
    for name in ("front-loader", "longtail", "tandem", "step-through", "suspension"):
        if (
            name in words
            or name.replace("-", " ") in words
            or name.replace("loader", "loading") in words
        ):
            return name
    if "fold" in words:
        return "folding"
    if any(w in words for w in ("clip-on", "hand-cycle", "handcycle")):
        return "clip-on"
    cart = bike.info.driven_wheel == "both" or any(w in words for w in ("cart", "barrow"))
    if cart and len(motors(bike)) > 1:
        return "cart"
    return "diamond"


def frame_of(bike: Bike) -> FramePattern:
    """Return the bike's frame with the stretches that were measured. Raises UnknownNameError."""
    name = bike.frame.pattern or guess_frame(bike)
    if name not in FRAMES:
        raise UnknownNameError("frame", name, tuple(FRAMES))
    measured = dict(bike.frame.lengths)
    rows = []
    for s in FRAMES[name].stretches:
        rows.append(replace(s, length_m=measured.get(s.id, s.length_m)))
    stretches = tuple(rows)
    return replace(FRAMES[name], stretches=stretches)


def place_of(bike: Bike, frame: FramePattern, part: Part) -> str:
    """Return where a part sits: as said, or as is usual for its kind, side and driven wheel."""
    known = dict(frame.places)
    said = dict(bike.frame.places).get(part.id, "")
    if said in known:
        return said
    return next(place for place in (*_usual(bike, frame, part), _rest(frame)) if place in known)


def _usual(bike: Bike, frame: FramePattern, part: Part) -> Iterator[str]:
    """Yield the places a part usually sits at, the likeliest first; its name tells the side and the
    end."""
    kind = REGISTRY[part.kind]
    words = f"{part.id} {part.name}".lower()
    if kind.sits == "axle":
        front = bike.info.driven_wheel == "front" or ("front" in words and "rear" not in words)
        yield "left_axle" if "left" in words else "right_axle"
        yield "front_axle" if front else "rear_axle"
        yield "front_axle"
        return
    if "rear" in words and kind.place in ("light", "energy"):
        yield "rack"
    yield dict(frame.usual).get(part.kind, kind.sits)


def _rest(frame: FramePattern) -> str:
    """Return where everything sits that has no place of its own: with the controller."""
    return dict(frame.usual).get(Controller.name, Controller.sits)


def shortest(
    frame: FramePattern, start: str, end: str, refused_too: bool = False
) -> tuple[Stretch, ...]:
    """Return the best way between two places: shortest, with a detour for joints and risks; never
    by a refused stretch.

    Dijkstra's algorithm, O(stretches × log places). Raises BikeError where there is no way.
    """
    ways: dict[str, list[tuple[str, Stretch]]] = {}
    for s in frame.stretches:
        if refused_too or not s.refused:
            ways.setdefault(s.a, []).append((s.b, s))
            ways.setdefault(s.b, []).append((s.a, s))
    best: dict[str, tuple[float, tuple[Stretch, ...]]] = {}
    turn = count()
    queue: list[tuple[float, str, int, tuple[Stretch, ...]]] = [(0.0, start, next(turn), ())]
    while queue:
        cost, here, _, path = heapq.heappop(queue)
        if here in best:
            continue
        best[here] = (cost, path)
        if here == end:
            return path
        for there, s in ways.get(here, ()):
            if there not in best:
                heapq.heappush(queue, (cost + _cost(s), there, next(turn), (*path, s)))
    raise BikeError(f"there is no way for a cable from {frame.words(start)} to {frame.words(end)}")


def _cost(s: Stretch) -> float:
    return s.length_m + JOINT_COST_M * bool(s.joint) + RISK_COST_M * bool(s.risk)


def lead_by(frame: FramePattern, start: str, via: str, end: str) -> tuple[Stretch, ...]:
    """Return the way that passes a place.

    Raises BikeError with the reason where it is refused or goes there and back.
    """
    if via not in dict(frame.places):
        raise UnknownNameError("place", via, tuple(p for p, _ in frame.places))
    there = [s for s in frame.stretches if via in (s.a, s.b)]
    if all(s.refused for s in there):
        raise BikeError(f"not by the {frame.words(via)}: {there[0].refused}")
    path = (*shortest(frame, start, via), *shortest(frame, via, end))
    if len({s.id for s in path}) < len(path):
        raise BikeError(f"by the {frame.words(via)} the cable would run there and back again")
    return path


def shortcut(frame: FramePattern, run: Run) -> tuple[str, float]:
    """Return the refusal that keeps a run from a shorter way and how much shorter that is in m;
    ("", 0) where there is none."""
    other = shortest(frame, *run.places, refused_too=True)
    refusal = next((s.refused for s in other if s.refused), "")
    saved = run.along_m - sum(s.length_m for s in other)
    if refusal and saved > 0.1:
        return (refusal, saved)
    return ("", 0.0)


def runs_of(bike: Bike) -> tuple[Run, ...]:
    """Return every run of the bike, each once, in the order of its joins; runs whose ends sit
    together are left out."""
    frame = frame_of(bike)
    found: dict[str, Run] = {}
    for join in bike.joins:
        for (a, p), (b, q) in (join.sides(), join.sides()[::-1]):
            if as_cable(bike.part(a)) is not None:
                continue
            for end, cables, joins in _follow(bike, join, (b, q), (), (join.id,)):
                one, two = sorted(
                    (f"{a}.{p}", f"{end[0]}.{end[1]}"), key=lambda e: (_mounted(bike, e), e)
                )
                found.setdefault(f"{one}|{two}", _run(bike, frame, (one, two), cables, joins))
    return tuple(r for r in found.values() if r.path or r.trouble or r.has_m)


def _mounted(bike: Bike, end: str) -> bool:
    """Return whether a plug `part.port` is of a part that is screwed down, as a controller is."""
    return REGISTRY[bike.part(end.partition(".")[0]).kind].fitting.mounted


def _follow(
    bike: Bike, join: Join, end: tuple[str, str], cables: tuple[str, ...], joins: tuple[str, ...]
) -> Iterator[tuple[tuple[str, str], tuple[str, ...], tuple[str, ...]]]:
    """Yield (end, cables, joins) for everything that a plug leads to through cables."""
    part = as_cable(bike.part(end[0]))
    if part is None:
        yield end, cables, joins
        return
    if part.id in cables:
        return
    linked = set()
    for one, two in conductors(part):
        linked.add(frozenset((one.partition(".")[0], two.partition(".")[0])))
    for port in part.ports:
        if port.id != end[1] and frozenset((port.id, end[1])) in linked:
            for onward in bike.joins_of(part.id, port.id):
                far = next(side for side in onward.sides() if side != (part.id, port.id))
                yield from _follow(bike, onward, far, (*cables, part.id), (*joins, onward.id))


def _run(
    bike: Bike,
    frame: FramePattern,
    ends: tuple[str, str],
    cables: tuple[str, ...],
    joins: tuple[str, ...],
) -> Run:
    parts = [bike.part(e.partition(".")[0]) for e in ends]
    ports = []
    for p, e in zip(parts, ends, strict=True):
        ports.append(p.port(e.partition(".")[2]))
    places = (place_of(bike, frame, parts[0]), place_of(bike, frame, parts[1]))
    run_id = "|".join(ends)
    via = dict(bike.frame.via).get(run_id, "")
    path: tuple[Stretch, ...] = ()
    trouble = ""
    try:
        if via:
            path = lead_by(frame, places[0], via, places[1])
        else:
            path = shortest(frame, *places)
    except BikeError as error:
        trouble = str(error)
    has = sum(cable_m(bike, c) for c in cables) + sum(bike.join(j).wire.length_m for j in joins)
    title = f"{port_words(parts[0], ports[0])} to {port_words(parts[1], ports[1])}"
    cores = min(len(bike.join(j).pairs) for j in joins)
    loops = sum(SERVICE_LOOP_M if REGISTRY[part.kind].fitting.mounted else END_M for part in parts)
    return Run(run_id, title, ends, places, cables, joins, cores, path, has, loops, trouble)


def cable_m(bike: Bike, part_id: str) -> float:
    """Return the length of a cable in m, 0 for what is none or a splice."""
    cable = as_cable(bike.part(part_id))
    if cable is None or cable.spec.length_m <= SPLICE_M:
        return 0.0
    return cable.spec.length_m


def crossings(bike: Bike) -> dict[str, tuple[Run, ...]]:
    """Return the runs that cross each kind of joint."""
    runs = runs_of(bike)
    rows: dict[str, tuple[Run, ...]] = {}
    for joint in SLACK_M:
        if found := tuple(r for r in runs if joint in r.joints):
            rows[joint] = found
    return rows


def used(runs: tuple[Run, ...]) -> tuple[tuple[Stretch, int], ...]:
    """Return every stretch that carries cables and how many runs it carries."""
    shared = Counter(s for run in runs for s in run.path)
    return tuple(shared.items())


def wrap_m(runs: tuple[Run, ...]) -> float:
    """Return the length of split wrap for all bundles of two and more, in m; what moves is left
    bare to slide."""
    return sum(s.length_m for s, n in used(runs) if n > 1 and not s.joint)


def tie_count(stretch: Stretch) -> int:
    """Return how many ties a stretch takes: evenly spaced where nothing moves, one on either side
    of a joint."""
    if stretch.joint:
        return 2
    return max(1, round(stretch.length_m / TIE_EVERY_M))


def ties(bike: Bike) -> tuple[tuple[str, int, int], ...]:
    """Return (stretch in words, cables, ties) of every stretch that carries cables."""
    frame = frame_of(bike)
    found = []
    for s, runs in used(runs_of(bike)):
        found.append((frame.stretch_words(s), runs, tie_count(s)))
    return tuple(found)


def change_frame(bike: Bike, frame: Frame) -> Bike:
    """Return the bike with another frame.

    Raises BikeError for impossible places, lengths or ways, naming them.
    """
    made = replace(bike, frame=frame)
    pattern = frame_of(made)
    stretches, places = (
        {s.id for s in FRAMES[frame.pattern or guess_frame(bike)].stretches},
        {p for p, _ in pattern.places},
    )
    for name, metres in frame.lengths:
        if name not in stretches:
            raise UnknownNameError("stretch", name, tuple(sorted(stretches)))
        if not 0.01 <= metres <= 20:
            raise BikeError(f"a stretch of {metres:g} m cannot be: 1 cm to 20 m")
    for part, place in frame.places:
        bike.part(part)
        refusal = [s.refused for s in pattern.stretches if place in (s.a, s.b)]
        if place not in places:
            raise UnknownNameError("place", place, tuple(sorted(places)))
        if all(refusal):
            raise BikeError(f"nothing sits at the {pattern.words(place)}: {refusal[0]}")
    led = dict(frame.via)
    for run in runs_of(made):
        if run.id in led and run.trouble:
            raise BikeError(run.trouble)
    return made


def way_words(frame: FramePattern, run: Run) -> str:
    """Return the places a run passes, in words, from its first end to its last."""
    here, names = run.places[0], [frame.words(run.places[0])]
    for stretch in run.path:
        here = stretch.b if stretch.a == here else stretch.a
        names.append(frame.words(here))
    return ", ".join(names)
