"""First power-up: the smallest set of joins with which the motor turns, found with the circuit
itself."""

from collections.abc import Sequence
from dataclasses import dataclass

from brightcore.analysis.bike import Analysis, analysis_of
from brightcore.behaviour.vocabulary import OBSERVABLES
from brightcore.bike.model import Bike, Join
from brightcore.bike.roles import role_of
from brightcore.circuit.conditions import DEAD_STEPS
from brightcore.circuit.contacts import join_title
from brightcore.circuit.netlist import Circuit, unplug
from brightcore.describing.join_edits import remove_join
from brightcore.kinds import REGISTRY
from brightcore.kinds.select import controllers
from brightcore.procedure.gates import GATES, is_high
from brightcore.simulation.table import Row, Table
from brightcore.simulation.words import look_words
from brightcore.wiring.sources import backfed

RUNS = ("throttle", "pedal")
"""Scenes in which the motor is asked to turn."""

PHASES, BATTERY, PACK = 1, 2, 3
"""Ranks of `join_rank`: when a join is made; 0 are signals."""


@dataclass(frozen=True, slots=True)
class FirstPowerUp:
    """Joins needed and not needed for the motor to turn, the scene that shows it, and what is then
    seen.

    `scene` is "" where the bike as joined does not run in any way; `needed` is then empty.
    """

    scene: str
    needed: tuple[str, ...]
    not_needed: tuple[str, ...]
    seen_on: tuple[str, ...]
    seen_running: tuple[str, ...]


def runs(circuit: Circuit, scene: str, removed: Sequence[Sequence[str]]) -> list[bool]:
    """Return for each set of taken-apart joins whether every motor runs smoothly in the scene."""
    rows = []
    for joins in removed:
        rows.append(Row(tuple(o for join in joins for o in unplug(circuit, join))))
    table = Table(circuit, rows)
    if scene not in table.scenes:
        return [False] * len(rows)
    seen = table.seen(scene)
    motors = []
    for name, codes in seen.items():
        if name.partition("-")[0] == "motor":
            motors.append(codes)
    found: list[bool] = []
    for k in range(len(rows)):
        found.append(bool(motors) and all(int(codes[k]) == 0 for codes in motors))
    return found


def find_first_power_up(bike: Bike) -> FirstPowerUp:
    """Return the smallest set of joins with which every motor turns, by throttle or by pedals.

    Joins whose absence alone does no harm are taken apart together; where that stops the motor (two
    that stand in for each other) they are tried one by one, which gives a set from which nothing
    more can be left out.
    """
    case = analysis_of(bike)
    return case.remember("first power-up", lambda: _found(case))


def _found(case: Analysis) -> FirstPowerUp:
    bike, circuit = case.bike, case.circuit
    ids = [j.id for j in bike.joins]
    best: tuple[str, tuple[str, ...]] | None = None
    for scene in RUNS:
        if not ids or not runs(circuit, scene, [[]])[0]:
            continue
        # One join left out at a time, all in one batch. What runs without each alone mostly runs
        # without all of them, so the whole set is tried at once before going one by one.
        tried = zip(ids, runs(circuit, scene, [[j] for j in ids]), strict=True)
        alone = [j for j, ok in tried if ok and _harmless(bike, [j])]
        together = _harmless(bike, alone) and runs(circuit, scene, [alone])[0]
        if together:
            gone = alone
        else:
            gone = _one_by_one(bike, circuit, scene, alone)
        needed = tuple(j for j in ids if j not in gone)
        if best is None or len(needed) < len(best[1]):
            best = (scene, needed)
    if best is None:
        return FirstPowerUp("", (), tuple(ids), (), ())
    scene, needed = best
    off = tuple(j for j in ids if j not in needed)
    bare = Table(circuit, [Row(tuple(o for join in off for o in unplug(circuit, join)))])
    return FirstPowerUp(
        scene, needed, off, _words(bike, bare, "switch_on"), _words(bike, bare, scene)
    )


def _harmless(bike: Bike, apart: Sequence[str]) -> bool:
    """Return whether joins may be left apart although the motor turns without them.

    No brake cut-off is lost by it, and no controller is then fed through thin wires.
    """
    bare = bike
    for join in apart:
        bare = remove_join(bare, join)
    # A motor turns without its brake levers. They stay in all the same: at the first power-up
    # somebody must be able to stop it.
    if cut_offs(bare) != cut_offs(bike):
        return False
    return len(controllers(bike)) < 2 or next(backfed(analysis_of(bare)), None) is None


def cut_offs(bike: Bike) -> frozenset[tuple[str, str]]:
    """Return (brake cut-off, controller) for every cut-off that reaches a controller."""
    case = analysis_of(bike)
    return frozenset(
        (part.id, place.part.id)
        for part in bike.parts
        if REGISTRY[part.kind].cuts == "brake"
        for own in case.places_of(part, lambda role: role.use == "cut_off")
        for place in case.net_of(own.id)
        if REGISTRY[place.part.kind].commutates
    )


def _one_by_one(bike: Bike, circuit: Circuit, scene: str, candidates: list[str]) -> list[str]:
    gone: list[str] = []
    for join in candidates:
        if _harmless(bike, [*gone, join]) and runs(circuit, scene, [[*gone, join]])[0]:
            gone.append(join)
    return gone


def _words(bike: Bike, table: Table, scene: str) -> tuple[str, ...]:
    if scene not in table.scenes:
        return ()
    found = []
    for name, codes in table.seen(scene).items():
        class_id, text = OBSERVABLES[name].classes[int(codes[0])]
        found.append(look_words(bike, name, class_id, text))
    return tuple(found)


def join_rank(bike: Bike, join: Join) -> int:
    """Return when a join is made: 0 signals, PHASES, 2 the controller's battery plug, PACK last."""
    if any(REGISTRY[bike.part(part).kind].place == "energy" for part, _ in join.sides()):
        return PACK
    pins = []
    for part, port in join.sides():
        for pin in bike.part(part).port(port).pins:
            pins.append(pin)
    roles = [role_of(pin.role) for pin in pins]
    if any(role.current == "battery" and role.polarity == "plus" for role in roles):
        return BATTERY
    if any(role.use == "phase" for role in roles):
        return PHASES
    return 0


def bench_cautions(bike: Bike) -> tuple[str, ...]:
    """Return the cautions before first power-up, in the order in which they matter (common
    practice)."""
    levers = sorted({bike.part(part).name for part, _ in cut_offs(bike)})
    if levers:
        stop = f"Cut-offs connected and within reach: {', '.join(levers)}"
    else:
        stop = (
            "No brake cut-off on this bike: power is cut at the pack's switch or plug; keep "
            "a hand on it"
        )
    return (
        f"{DEAD_STEPS[0]}. {GATES['discharged']}",
        "Read the pack's plug with a meter before it goes in: plus on plus, and no short between "
        "the two wires it meets. Pre-charge or an anti-spark plug where it sparks",
        GATES["wheel_up"],
        (
            "Axle nuts tight, torque arm on: a loose axle spins out at the first throttle and "
            "tears its cable"
        ),
        stop,
        *((GATES["high_volts"],) if is_high(bike) else ()),
        "Pack last, switched off; then only a touch of throttle",
    )


def bench_steps(bike: Bike, light: FirstPowerUp) -> tuple[str, ...]:
    """Return the joins of first power-up in the order they are made: signals first, the pack
    last."""
    order = sorted(
        light.needed, key=lambda j: (join_rank(bike, bike.join(j)), light.needed.index(j))
    )
    return tuple(join_title(bike, bike.join(j)) for j in order)
