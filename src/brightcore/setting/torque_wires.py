"""Torque sensor: which of four or five unknown wires is which, from volts at rest, pushed and
turning.

Every order of the wires is weighed; what each shows is common practice: supply and ground stand
still, torque rises when pushed, cadence changes while turning.
"""

import math
from collections.abc import Mapping, Sequence
from itertools import permutations

import numpy as np

from brightcore.belief.bayes import posterior
from brightcore.bike.model import Bike
from brightcore.kinds.sensors import TorqueSpec
from brightcore.setting.contract import (
    Field,
    Instrument,
    Measured,
    Readings,
    SetFinding,
    Step,
    Subject,
    Verdict,
    next_step,
    verdict_of,
)
from brightcore.setting.own_plug import every

ROLES = ("supply", "ground", "torque signal", "cadence", "second cadence or direction")
SURE = 0.9
COUNTS = (4, 5)
MOST_SUPPLY_V = 5.6
STILL_V, RISE_V, TURN_V = 0.06, 0.05, 0.5
"""A wire that does not move, that rises when pushed, that changes while turning (common
practice)."""

GARBAGE = 0.01


def _near(value: float, centre: float, spread: float) -> float:
    return math.exp(-0.5 * ((value - centre) / spread) ** 2)


def likelihood(role: str, rest: float, pushed: float, turning: float) -> float:
    """Return how well a wire's three readings in volts go with a role, up to 1."""
    push, turn = pushed - rest, turning - rest
    still = _near(push, 0, STILL_V) * _near(turn, 0, STILL_V)
    share = {
        "supply": _near(rest, 5.0, 0.3) * still,
        "ground": _near(rest, 0.0, 0.12) * still,
        "torque signal": _near(rest, 1.0, 0.4)
        * (1.0 if push >= RISE_V else 0.02)
        * _near(turn, 0, 0.4),
        "cadence": _near(push, 0, 2 * STILL_V) * (0.8 if abs(turn) >= TURN_V else 0.04),
        "second cadence or direction": _near(push, 0, 2 * STILL_V)
        * (0.7 if abs(turn) >= TURN_V else 0.3),
    }[role]
    return GARBAGE + (1 - GARBAGE) * share


def name_wires(
    rest: Sequence[float], pushed: Sequence[float], turning: Sequence[float]
) -> tuple[tuple[str, float], ...]:
    """Return (role, belief) of every wire, in their order; four or five wires.

    >>> rest, pushed, turning = (5.0, 0.0, 1.0, 4.9), (5.0, 0.0, 1.6, 4.9), (5.0, 0.0, 1.1, 2.4)
    >>> [role for role, _ in name_wires(rest, pushed, turning)]
    ['supply', 'ground', 'torque signal', 'cadence']
    """
    count = len(rest)
    roles = ROLES[:count]
    orders = list(permutations(range(count)))
    table = np.array(
        [
            [likelihood(role, *read) for role in roles]
            for read in zip(rest, pushed, turning, strict=True)
        ]
    )
    logs = [
        np.log(
            [np.prod([table[wire, role] for wire, role in enumerate(order)]) for order in orders]
        )
    ]
    belief = posterior(np.full(len(orders), 1 / len(orders)), logs)
    found = []
    for wire in range(count):
        shares = []
        for r in range(count):
            shares.append(sum(belief[n] for n, order in enumerate(orders) if order[wire] == r))
        best = int(np.argmax(shares))
        found.append((roles[best], float(shares[best])))
    return tuple(found)


class TorqueWires(Instrument):
    """Volts of every wire in three states."""

    key = "torque-wires"
    title = "Unknown torque sensor wires"
    helper = True

    def subjects(self, bike: Bike) -> tuple[Subject, ...]:
        """Every torque sensor."""
        return every(bike, TorqueSpec)

    def steps(
        self, bike: Bike, subject: str, typed: Mapping[str, str] | None = None
    ) -> tuple[Step, ...]:
        """At rest, pushed, turning."""
        on = "Fed with 5 V limited to 0.1 A, or connected and back-probed; number the wires once"
        gates = ("pack_safe", "wheel_up")
        hint = "one value a wire, in order, such as 5.0 0.0 1.0 4.9"
        titles = (
            ("rest", "Volts of every wire, feet off", "At rest"),
            (
                "pushed",
                "A firm push on the level pedal, brake held: the same wires again",
                "Pushed",
            ),
            ("turning", "Turn the cranks backwards, slowly: the same wires again", "Turning"),
        )
        found = []
        for name, title, label in titles:
            found.append(
                Step(
                    name,
                    title,
                    on,
                    gates,
                    (Field(name, label, "V", -0.5, 15.0, many=True, help=hint),),
                )
            )
        return tuple(found)

    def judged(
        self,
        bike: Bike,
        subject: str,
        found: Readings,
        options: Mapping[str, str],
        last: Mapping[str, float],
    ) -> Verdict:
        """Name every wire, or say which is not told apart."""
        rest, pushed, turning = (found.row(name) for name in ("rest", "pushed", "turning"))
        if rest and max(rest) > MOST_SUPPLY_V:
            text = f"{max(rest):g} V on a 5 V sensor"
            change = "Switch off: it needs a step-down converter."
            return verdict_of([SetFinding("S038", "danger", text, change)], True, "")
        rows = [row for row in (rest, pushed, turning) if row]
        if rows and (len({len(row) for row in rows}) > 1 or len(rows[0]) not in COUNTS):
            counts = ", ".join(str(len(row)) for row in rows)
            text = f"{counts} wires read: the same four or five every time"
            return verdict_of(
                [SetFinding("S036", "fault", text, "Read the rows again, in order.")], True, ""
            )
        if next_step(self.steps(bike, subject), found) is not None:
            return verdict_of([], False, "")
        named = name_wires(rest, pushed, turning)
        values = []
        for n, (role, share) in enumerate(named, 1):
            values.append(Measured(f"wire_{n}", round(share, 3), "", f"wire {n}: {role}"))
        unsure = [str(n) for n, (_, share) in enumerate(named, 1) if share < SURE]
        findings = []
        if unsure:
            text = f"Wires {', '.join(unsure)} are not told apart"
            findings.append(
                SetFinding("S037", "advice", text, "Push harder, turn slower, and read again.")
            )
        words = ", ".join(f"{n} {role}" for n, (role, _) in enumerate(named, 1))
        return verdict_of(findings, True, words[0].upper() + words[1:], tuple(values))
