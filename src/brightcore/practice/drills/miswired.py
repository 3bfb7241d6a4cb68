"""Find the mis-wired pin on a sheet."""

import random
from functools import lru_cache

from brightcore.bike.model import Bike, Join
from brightcore.bike.roles import role_of
from brightcore.describing.patterns import PATTERNS, make_pattern
from brightcore.practice.drills.base import Drill, Question

LEAST_PINS = 3


@lru_cache(maxsize=20)
def _bike(name: str) -> Bike:
    return make_pattern(name, name)


def rows_of(bike: Bike, join: Join) -> list[tuple[str, str, str, str]]:
    """Return (pin, what it carries, pin of the mate, what that carries) of a connection."""
    one, two = (bike.part(part).port(port) for part, port in join.sides())
    roles = {pin.name: role_of(pin.role).meaning for pin in one.pins}
    mates = {pin.name: role_of(pin.role).meaning for pin in two.pins}
    return [(a, roles[a], b, mates[b]) for a, b in join.pairs]


class MiswiredPin(Drill):
    """Two wires of a plug are crossed: which pins?"""

    key, title = "miswired", "Find the mis-wired pin"

    def make(self, rng: random.Random) -> Question:
        while True:
            bike = _bike(rng.choice(tuple(PATTERNS)))
            join = rng.choice(bike.joins)
            rows = rows_of(bike, join)
            plain = all(role == mate for _, role, _, mate in rows)
            if (
                len(rows) >= LEAST_PINS
                and plain
                and len({role for _, role, _, _ in rows}) == len(rows)
            ):
                break
        one, two = sorted(rng.sample(range(len(rows)), 2))
        mates = [(b, mate) for _, _, b, mate in rows]
        mates[one], mates[two] = mates[two], mates[one]
        kept = []
        for k, ((_, role, _, _), (_, mate)) in enumerate(zip(rows, mates, strict=True)):
            kept.append((f"Pin {k + 1}, {role}", f"goes to {mate}"))
        given = tuple(kept)
        choices = tuple((str(k + 1), f"pin {k + 1}") for k in range(len(rows)))
        return Question(
            "Read off plug and mate with a meter. Which pins are crossed?",
            "many",
            (str(one + 1), str(two + 1)),
            (
                f"Pin {one + 1} carries {rows[one][1]} and pin {two + 1} {rows[two][1]}: each "
                "goes to the other."
            ),
            given,
            choices,
        )
