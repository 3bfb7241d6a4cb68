"""A practice case: a bike, what may be wrong, and a seed that hides it; and the code that carries
one."""

import re
from dataclasses import dataclass

from brightcore.bike.model import Bike
from brightcore.circuit.faults import FaultMode
from brightcore.circuit.netlist import Circuit
from brightcore.errors import ReadingError
from brightcore.practice.chance import in_turn, uniform
from brightcore.practice.sorts import BY_KEY, playable

LETTERS = "23456789ABCDEFGHJKLMNPQRSTUVWXYZ"
"""Letters of a seed: none that is taken for another."""

SEED_LETTERS = 6
NOTHING_SHARE = 0.5
"""Share of the cases of the sort `nothing` in which nothing is wrong."""

OFTEN = 0.5
"""How often a fault that comes and goes shows at a try (common practice)."""

_CODE = re.compile(r"^([a-z0-9-]{2,40})\.([a-z]{2,12})\.([2-9A-HJ-NP-Z]{4,12})$")


@dataclass(frozen=True, slots=True)
class Code:
    """What a case is known by: the bike's key, the sort, the seed. It says nothing of what is
    hidden."""

    bike: str
    sort: str
    seed: str

    def __str__(self) -> str:
        return f"{self.bike}.{self.sort}.{self.seed}"


def read_code(text: str) -> Code:
    """Return the code in a text; raises ReadingError.

    >>> read_code("hub-conversion.anything.4F7K2M").seed
    '4F7K2M'
    """
    found = _CODE.match(text.strip())
    if not found or found[2] not in BY_KEY:
        raise ReadingError(f"{text.strip()!r} is no case: wanted bike.sort.SEED")
    return Code(found[1], found[2], found[3])


def new_seed(number: int) -> str:
    """Return a seed of a number."""
    base = len(LETTERS)
    return "".join(LETTERS[number // base**k % base] for k in range(SEED_LETTERS))


@dataclass(frozen=True, slots=True)
class Case:
    """A bike and what hides on it. `named`: ids of the faults of a case that was written by
    hand."""

    bike: Bike
    sort: str
    seed: str
    named: tuple[str, ...] = ()


def candidates(circuit: Circuit, case: Case) -> list[FaultMode]:
    """Return the faults that may be hidden, in the order in which the seed tries them."""
    sort = BY_KEY[case.sort]
    modes = {}
    for mode in circuit.faults:
        if playable(mode) and sort.fits(mode, circuit.bike):
            modes[mode.id] = mode
    weighted = [(name, mode.weight) for name, mode in modes.items()]
    # Every fault gets a draw of its own from seed and name. A fault that is added later then moves
    # no other: old codes go on hiding what they hid.
    return [modes[name] for name in in_turn(weighted, case.seed, "fault")]


def hides_nothing(case: Case) -> bool:
    """Return whether a case of the sort `nothing` hides nothing."""
    return case.sort == "nothing" and uniform(case.seed, "nothing") < NOTHING_SHARE
