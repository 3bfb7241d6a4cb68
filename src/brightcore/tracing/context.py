"""What the past of a bike makes more likely: weights by kind of fault and by place.

All weights are common practice. A weight says how much more often such a fault is met on bikes with
that past; what closed jobs of the shop say comes on top (see `hypotheses`).
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from brightcore.circuit.netlist import Circuit
from brightcore.kinds import REGISTRY
from brightcore.tracing.evidence import Evidence
from brightcore.tracing.hypotheses import Hypothesis, HypothesisSet

Floats = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Leaning:
    """One circumstance: its words, and (kind of fault, weight) pairs; kinds as in `_kinds_of`."""

    words: str
    weights: tuple[tuple[str, float], ...]


BEFORE = {
    "rain": Leaning(
        "Rain, washing or a wet week",
        (("contact", 2.0), ("leak", 5.0), ("sensor", 1.5), ("loose", 2.0), ("display", 1.5)),
    ),
    "salt": Leaning(
        "Salt: winter roads, sea air",
        (("contact", 2.5), ("leak", 4.0), ("loose", 2.0)),
    ),
    "crash": Leaning(
        "Crash or fall",
        (("lever", 3.0), ("display", 3.0), ("grip", 3.0), ("cable", 3.0), ("magnet", 3.0)),
    ),
    "heat": Leaning(
        "Heat, long climbs",
        (("motor", 2.5), ("controller", 2.0), ("power", 3.0), ("gear", 2.5), ("hall", 2.0)),
    ),
    "storage": Leaning(
        "Stood for weeks",
        (("pack", 4.0), ("contact", 1.5)),
    ),
    "others": Leaning(
        "Others have worked on it",
        (("exchanged", 8.0), ("setting", 3.0), ("short", 2.0), ("undescribed", 3.0)),
    ),
    "new": Leaning(
        "Just built or changed",
        (("exchanged", 12.0), ("setting", 4.0), ("contact", 2.0), ("undescribed", 2.0)),
    ),
}
"""What went before, by id."""

AT_PLUGS = {
    "cut": Leaning(
        "Cut or chafed wire",
        (("cable", 5.0), ("short", 4.0), ("leak", 3.0), ("loose", 3.0)),
    ),
    "crushed": Leaning(
        "Crushed or pinched cable",
        (("cable", 5.0), ("short", 3.0), ("loose", 2.0)),
    ),
    "loose": Leaning(
        "Plug not fully home",
        (("contact", 4.0), ("loose", 5.0)),
    ),
    "green": Leaning(
        "Green or white crust in a plug",
        (("contact", 5.0), ("leak", 5.0), ("loose", 2.0)),
    ),
    "bent": Leaning(
        "Bent or pushed-back pin",
        (("contact", 6.0), ("loose", 4.0), ("short", 3.0)),
    ),
    "tape": Leaning(
        "Joints under tape",
        (("contact", 2.0), ("cable", 3.0), ("exchanged", 3.0), ("loose", 3.0)),
    ),
}
"""What is seen at wires and plugs, by id."""

LEAK_LEVELS = ("/leak", "/damp")
TOLD = {
    "range": Leaning("Range has become short", (("pack", 6.0), ("power", 2.0))),
    "charging": Leaning("Does not charge, or not fully", (("pack", 8.0), ("charger", 8.0))),
    "noise": Leaning("Noise from the motor", (("gear", 6.0), ("motor", 3.0))),
    "smell": Leaning("Smelled hot or burnt", (("power", 6.0), ("controller", 4.0), ("motor", 4.0))),
    "tingle": Leaning(
        "Tingles where the frame is touched: pack out at once", (("axle", 30.0), ("leak", 2.0))
    ),
    "drains": Leaning(
        "Is empty after standing", (("leak", 6.0), ("short", 3.0), ("display", 3.0), ("pack", 3.0))
    ),
    "lag": Leaning(
        "Help comes late, or stops late", (("sensor", 3.0), ("magnet", 3.0), ("setting", 2.0))
    ),
    "runs-on": Leaning(
        "Keeps running when it should stop", (("grip", 4.0), ("short", 3.0), ("leak", 3.0))
    ),
    "stays-on": Leaning("Will not switch off", (("display", 5.0), ("short", 3.0), ("leak", 2.0))),
    "half-speed": Leaning("Only half the speed", (("setting", 4.0), ("hall", 2.0), ("grip", 3.0))),
}
"""What a rider tells that no look shows, by id."""

ARRIVAL = BEFORE | AT_PLUGS
"""What Arrive ticks."""

EVERY = ARRIVAL | TOLD
"""All of them."""


def is_ticked(item: Evidence) -> bool:
    """Return whether evidence is a tick of Arrive, which is taken away there."""
    return item.kind == "past" and item.value in ARRIVAL


def words_of(leanings: Mapping[str, Leaning]) -> tuple[tuple[str, str], ...]:
    """Return (id, words) of some circumstances, in order."""
    return tuple((name, item.words) for name, item in leanings.items())


AT_PLACE = 4.0
"""How much more a thing seen at a named plug weighs there than elsewhere (common practice)."""


def _kinds_of(circuit: Circuit, item: Hypothesis) -> set[str]:
    """Return the kinds of fault that a hypothesis is, in the words of the leanings."""
    if item.mode is None:
        return set()
    first, _, rest = item.mode.id.partition("/")
    found = {"loose"} if item.loose else set()
    tests: tuple[tuple[str, Callable[[], bool]], ...] = (
        ("contact", lambda: rest.startswith("contact")),
        ("exchanged", lambda: rest.startswith("exchanged")),
        ("short", lambda: rest.startswith("short-to") and not rest.endswith(LEAK_LEVELS)),
        ("leak", lambda: rest.endswith(LEAK_LEVELS)),
        ("cable", lambda: item.repair.of_cable),
        ("setting", lambda: item.repair.of_setting),
        ("undescribed", lambda: item.repair.describes),
        ("magnet", lambda: ":magnet" in item.repair.id or ":gap" in item.repair.id),
        ("gear", lambda: ":gear" in item.repair.id),
        ("hall", lambda: ":halls" in item.repair.id),
        ("power", lambda: item.mode is not None and item.mode.hot > 0),
        ("axle", lambda: item.mode is not None and item.mode.sign("axle") > 0),
    )
    found |= {name for name, holds in tests if holds()}
    if not item.repair.of_join and not rest.startswith(("contact", "exchanged", "short-to")):
        part = circuit.bike.part(first.split(".")[0])
        found |= {REGISTRY[part.kind].fails_as} - {""}
    return found


def leaning_weights(
    circuit: Circuit, hypotheses: HypothesisSet, name: str, place: str = ""
) -> Floats:
    """Return how much more likely each hypothesis [H-1] is with a circumstance, 1 where it does not
    matter.

    `place` is the join or part at which it was seen, "" where that is not known.
    """
    weights = dict(EVERY[name].weights)
    found = np.ones(hypotheses.modelled)
    for i, item in enumerate(hypotheses.items[: hypotheses.modelled]):
        factors = []
        for kind in _kinds_of(circuit, item):
            if kind in weights:
                factors.append(weights[kind])
        weight = max(factors, default=1.0)
        if place and weight > 1.0:
            if item.repair.owner == place:
                weight = weight * AT_PLACE
            else:
                weight = 1.0
        found[i] = weight
    return found
