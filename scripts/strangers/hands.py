"""What somebody at a true bike enters for each kind of test; what this benchmark cannot play is
answered "not sure"."""

from collections.abc import Callable

from brightcore.behaviour.vocabulary import OBSERVABLES
from brightcore.bike.model import Join
from brightcore.circuit.conditions import Condition, parse_condition
from brightcore.circuit.contacts import contact_id
from brightcore.tracing.evidence import Evidence
from brightcore.tracing.tests import Test, kind_of
from strangers.solver import Branch, Piece
from strangers.truth import TrueBike

Entered = tuple[Evidence, ...]

HOT_W, WARM_W = 1.2, 0.3
"""Watts in a contact from which a plug is hot to the hand."""


def look(bike: TrueBike, test: Test) -> Entered:
    """Look: what is seen, now and then taken for something else."""
    found = []
    for name, value in bike.seen(test.scene).items():
        if bike.rng.random() < 0.01:
            value = str(bike.rng.choice(OBSERVABLES[name].ids()))
        found.append(Evidence("look", value, scene=test.scene, observable=name, state=test.state))
    return tuple(found)


def _entered(test: Test, value: str) -> Entered:
    return kind_of(test.kind).read(test, value)


def volts(bike: TrueBike, test: Test) -> Entered:
    """Read volts."""
    load = bike.meter.load(test.red, test.black)
    volt, _ = bike.with_branch(test.condition, load, test.red, test.black)
    return _entered(test, bike.meter.shown_v(volt + 0.002 * bike.rng.standard_normal()))


def swing(bike: TrueBike, test: Test) -> Entered:
    """Read the lowest and highest volts while something is turned."""
    condition = parse_condition(bike.circuit, test.condition.id)
    kept = tuple(
        item
        for item in condition.settings
        if bike.circuit.controls[item[0]][1].id not in ("rotor", "turn")
    )
    ends = (Condition(condition.power, kept, condition.unplugged), condition)
    load = bike.meter.load(test.red, test.black)
    found = sorted(bike.with_branch(end, load, test.red, test.black)[0] for end in ends)
    return _entered(test, f"{found[0]:.2f} to {found[1]:.2f}")


def ohms(bike: TrueBike, test: Test) -> Entered:
    """Read ohms, pack out."""

    def across(branch: Branch, red: str, black: str) -> tuple[float, bool]:
        return bike.with_branch(test.condition, branch, red, black)

    return _entered(test, bike.meter.ohms(across, test.red, test.black))


def diode(bike: TrueBike, test: Test) -> Entered:
    """Read a diode: about a milliamp from three volts."""
    feed = Branch("meter", "", "", (Piece(float("inf"), 1 / 3000.0, 0.0, -3.0 / 3000.0),))
    volt, _ = bike.with_branch(test.condition, feed, test.red, test.black)
    return _entered(test, "OL" if volt > 2.0 else f"{volt:.3f} V")


def amps(bike: TrueBike, test: Test) -> Entered:
    """Read amps in a lead: by a clamp, or in line."""
    name = _contact(bike, test.red, test.black)
    if name is None:
        return ()
    net = bike.net(test.condition)
    if name not in net.names:
        return ()
    ampere = abs(float(net.currents(bike.solved(test.condition))[net.names.index(name)]))
    if test.kind == "drain":
        return _entered(test, f"{1e3 * ampere:.2g} mA")
    ampere = ampere * (1 + 0.03 * bike.rng.standard_normal()) + 0.1 * bike.rng.standard_normal()
    return _entered(test, f"{abs(ampere):.1f}")


def _contact(bike: TrueBike, red: str, black: str) -> str | None:
    for join in bike.bike.joins:
        for pair in join.pairs:
            ends = (
                f"{join.a_part}.{join.a_port}.{pair[0]}",
                f"{join.b_part}.{join.b_port}.{pair[1]}",
            )
            if ends == (red, black):
                return contact_id(join, pair)
    return None


def _places(bike: TrueBike) -> frozenset[str]:
    return bike.trouble.owners


def moves(bike: TrueBike, test: Test) -> Entered:
    """Move a plug or a cable."""
    chance = 0.2 if test.subject in _places(bike) else 0.03
    return _entered(test, "moves" if bike.rng.random() < chance else "same")


def feel(bike: TrueBike, test: Test) -> Entered:
    """Feel a plug after a hard pull: hot where its contacts burn watts."""
    pull = next((s for s in bike.scenes.values() if s.id == "pull"), None)
    join = next((j for j in bike.bike.joins if j.id == test.subject), None)
    if pull is None or join is None:
        return ()
    state = dict(pull.states)["load"]
    watt = max((_watts(bike, state, join, pair) for pair in join.pairs), default=0.0)
    chance = 0.95 if watt > HOT_W else 0.4 if watt > WARM_W else 0.03
    return _entered(test, "hot" if bike.rng.random() < chance else "cool")


def _watts(bike: TrueBike, state: Condition, join: Join, pair: tuple[str, str]) -> float:
    name = contact_id(join, pair)
    net = bike.net(state)
    if name not in net.names:
        return 0.0
    k = net.names.index(name)
    volt = bike.solved(state)
    full = [*volt, 0.0]
    across = full[net.a[k]] - full[net.b[k]]
    return abs(across * float(net.currents(volt)[k]))


def sign(bike: TrueBike, test: Test) -> Entered:
    """Warmth, noise, smell, ohms to the axle, charge: nothing of that is played, so as on a sound
    bike."""
    choices = [value for value, _ in kind_of(test.kind).choices]
    return _entered(test, choices[0] if bike.rng.random() < 0.02 else choices[1])


def inspect(bike: TrueBike, test: Test) -> Entered:
    """Look closely: seen with some luck where the trouble is."""
    owner = test.subject.split(":")[1] if ":" in test.subject else test.subject
    visible = owner in _places(bike) and not test.subject.startswith("setting")
    chance = 0.3 if visible else 0.01
    return _entered(test, "damaged" if bike.rng.random() < chance else "good")


def ask(bike: TrueBike, test: Test) -> Entered:
    """Follow a line: is anything on it that is not described?"""
    line = test.subject.removeprefix("describe:")
    chance = 0.95 if line in bike.trouble.roles else 0.02
    return _entered(test, "yes" if bike.rng.random() < chance else "no")


def swap(bike: TrueBike, test: Test) -> Entered:
    """Swap in a known-good part."""
    return _entered(test, "gone" if test.subject in bike.trouble.buys else "same")


def half(bike: TrueBike, test: Test) -> Entered:
    """Half of a donor: gone where the trouble is in what was lent."""
    lent, _, rest = test.subject.partition(":")
    own, _, split = rest.partition("|")
    places = _places(bike)
    if places & set(split.split("+")):
        return _entered(test, "gone" if bike.rng.random() < 0.5 else "same")
    on_motor = bool(places & set(own.split("+")))
    return _entered(test, "gone" if on_motor == (lent == "motor") else "same")


def _hanging_on(bike: TrueBike, plug: str) -> frozenset[str]:
    """Return the parts and plugs on the side of a plug where there is neither pack nor motor."""
    join = next(join for join in bike.bike.joins if join.id == plug)
    for start in (join.a_part, join.b_part):
        found, queue = {start}, [start]
        while queue:
            here = queue.pop()
            for other in bike.bike.joins:
                ends = {other.a_part, other.b_part}
                if other.id != plug and here in ends:
                    queue += sorted(ends - found)
                    found |= {*ends, other.id}
        kinds = {part.kind for part in bike.bike.parts if part.id in found}
        if not kinds & {"pack", "controller", "hub_motor", "mid_motor"}:
            return frozenset(found)
    return frozenset()


def behind(bike: TrueBike, test: Test) -> Entered:
    """What a donor has behind a plug: gone where the trouble is in what was lent."""
    places = _places(bike)
    if test.subject in places:
        return _entered(test, "gone" if bike.rng.random() < 0.5 else "same")
    return _entered(test, "gone" if places & _hanging_on(bike, test.subject) else "same")


def order(bike: TrueBike, test: Test) -> Entered:
    """Try the other orders of halls and phases."""
    return _entered(test, "runs" if bike.trouble.orders else "none")


ANSWERS: dict[str, Callable[[TrueBike, Test], Entered]] = {
    "volts": volts,
    "swing": swing,
    "ohms": ohms,
    "diode": diode,
    "current": amps,
    "drain": amps,
    "wiggle": moves,
    "feel": feel,
    "warmth": sign,
    "listen": sign,
    "smell": sign,
    "overspeed": sign,
    "insulation": sign,
    "capacity": sign,
    "inspect": inspect,
    "ask": ask,
    "order": order,
    "swap": swap,
    "half": half,
    "behind": behind,
}
"""What is done for each kind of test that is no look."""
