"""What a job costs: offers before it, lines of what was put on it, and their sums. Money is
decimal."""

import re
from collections.abc import Iterable
from dataclasses import dataclass
from decimal import ROUND_HALF_UP, Decimal

from brightcore.errors import ReadingError, require
from brightcore.matching.cost import LEVELS

KINDS = {"part": "Part", "labour": "Labour", "other": "Other"}
"""Kinds of cost lines; `other` is anything: an arm, an alarm, a charger, tools, postage."""

AVAILABLE = {
    "universal": "from several makers: stays to be had",
    "maker": "from its maker only",
    "gone": "not to be had any more",
}
"""Whether parts stay to be had."""

CENT = Decimal("0.01")
MOST = Decimal(1_000_000)


@dataclass(frozen=True, slots=True)
class Line:
    """One line: `count` times `each`; labour counts in hours."""

    kind: str
    words: str
    count: Decimal
    each: Decimal

    @property
    def amount(self) -> Decimal:
        """What the line comes to, to the cent (half up, as a bill is written)."""
        return (self.count * self.each).quantize(CENT, ROUND_HALF_UP)


@dataclass(frozen=True, slots=True)
class Tally:
    """Sums of lines by kind, in the order of `KINDS`, and of all."""

    by_kind: tuple[tuple[str, Decimal], ...]
    total: Decimal


def tally(lines: Iterable[Line]) -> Tally:
    """Return the sums of what was put on a job; kinds without a line are left out."""
    every = tuple(lines)
    sums = []
    for kind, title in KINDS.items():
        if any(line.kind == kind for line in every):
            sums.append(
                (title, sum((line.amount for line in every if line.kind == kind), Decimal(0)))
            )
    return Tally(tuple(sums), sum((line.amount for line in every), Decimal(0)))


@dataclass(frozen=True, slots=True)
class Tax:
    """A tax as quote and bill show it: its name, per cent, and whether amounts hold it already."""

    name: str
    percent: Decimal
    within: bool


@dataclass(frozen=True, slots=True)
class Taxed:
    """An amount with its tax: `net` without it, `tax`, and `total` to be paid."""

    net: Decimal
    tax: Decimal
    total: Decimal


def taxed(amount: Decimal, tax: Tax) -> Taxed:
    """Return an amount with its tax, to the cent (half up, on the sum and not line by line).

    >>> taxed(Decimal("119.00"), Tax("Tax", Decimal(19), True)).tax
    Decimal('19.00')
    >>> taxed(Decimal("100.00"), Tax("Tax", Decimal(19), False)).total
    Decimal('119.00')
    """
    share = tax.percent / 100
    if tax.within:
        part = (amount * share / (1 + share)).quantize(CENT, ROUND_HALF_UP)
        return Taxed(amount - part, part, amount)
    part = (amount * share).quantize(CENT, ROUND_HALF_UP)
    return Taxed(amount, part, amount + part)


_CLOCK = re.compile(r"^(\d+):([0-5]\d)$")
_TIMES = re.compile(
    r"^(?:(?P<h>\d+(?:\.\d+)?)\s*(?:h|hr|hrs|hour|hours)\.?)?\s*"
    r"(?:(?P<min>\d+(?:\.\d+)?)\s*(?:m|min|mins|minute|minutes)?\.?)?$"
)


def read_minutes(name: str, text: str, most: float) -> float:
    """Return minutes as people type them: "25", "25 min", "1 h 20", "1.5 h", "1:20" (hours and
    minutes).

    Raises ReadingError for what is none, RangeError for too much.

    >>> [read_minutes("Minutes", text, 1000) for text in ("25 min", "1 h 20", "1,5 h", "1:20")]
    [25.0, 80.0, 90.0, 80.0]
    """
    raw = text.strip().lower().replace(",", ".")
    clock, times = _CLOCK.match(raw), _TIMES.match(raw)
    if clock:
        value = 60.0 * int(clock[1]) + int(clock[2])
    elif raw and times:
        value = 60.0 * float(times["h"] or 0) + float(times["min"] or 0)
    else:
        words = f"{name}: {text.strip()!r} is not a time. Type 25, 25 min or 1 h 20"
        raise ReadingError(words)
    require(name, value, 0.0, most, "min")
    return value


def read_money(name: str, text: str, most: Decimal = MOST) -> Decimal:
    """Return an amount as typed, with a point or a comma. Raises ReadingError for what is none,
    RangeError for too much."""
    raw = text.strip().replace(",", ".").replace(" ", "")
    try:
        value = Decimal(raw or "0")
    except ArithmeticError:
        raise ReadingError(f"{name}: {text.strip()!r} is not an amount") from None
    if not value.is_finite():
        raise ReadingError(f"{name}: {text.strip()!r} is not an amount")
    require(name, float(value), 0.0, float(most))
    return value.quantize(CENT, ROUND_HALF_UP)


def hours(minutes: float) -> Decimal:
    """Return minutes as hours to the hundredth."""
    return (Decimal(str(minutes)) / 60).quantize(CENT, ROUND_HALF_UP)


def offer_cost(parts: Decimal, rate: Decimal, minutes: int) -> Decimal:
    """Return what an offer comes to, to the cent (half up): parts, and labour at a rate an hour."""
    return (parts + rate * minutes / 60).quantize(CENT, ROUND_HALF_UP)


@dataclass(frozen=True, slots=True)
class Proposal:
    """One way to go on, to be offered: usual figures until somebody types the shop's own."""

    title: str
    parts_cost: Decimal
    minutes: int
    available: str
    note: str = ""

    def cost(self, rate: Decimal) -> Decimal:
        """Return what it comes to at a rate an hour."""
        return offer_cost(self.parts_cost, rate, self.minutes)


LOCKED = ("controller", "display")
"""Kinds of part that on a locked system come from the maker alone."""


def repair_proposal(
    action: str, cost_level: int, minutes: float, kind: str, locked: bool
) -> Proposal:
    """Return the offer of one repair, with the usual part cost of its level (common practice)."""
    only = locked and kind in LOCKED
    cost = Decimal(str(LEVELS[min(cost_level, len(LEVELS) - 1)])).quantize(CENT)
    return Proposal(action, cost, round(minutes), "maker" if only else "universal")
