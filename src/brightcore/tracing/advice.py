"""What to do next, and why: the next test, what each answer would mean, the repair and its
proof."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from brightcore.belief.bayes import entropy_bits, expected_information, posterior, posterior_after
from brightcore.bike.model import Bike
from brightcore.procedure.gates import is_high
from brightcore.tracing.engine import Engine
from brightcore.tracing.evidence import Evidence
from brightcore.tracing.hazard import left_to_check
from brightcore.tracing.pace import minutes_of, present_state
from brightcore.tracing.states import AGAIN
from brightcore.tracing.suspects import LEAST_LEFT
from brightcore.tracing.tests import Outcome, OutcomeTable, Test, kind_of, test_id
from brightcore.tracing.trace import Trace

MIN_BITS = 0.01
"""Expected information below which a test is not worth proposing."""


LEAST_ANSWER, MOST_ANSWERS = 0.005, 6
"""Answers less likely than this are not shown, nor more than so many."""

TELLING_SHARE, OPEN_SHARE = 0.15, 0.02
"""Share of belief from which an answer points to a suspect, and from which a suspect is still
open."""

MOVED = 0.01
"""A change of belief that is told."""

LEAST_RATE, MOST_LEFT_MIN = 0.05, 60
"""Bits a minute that are reckoned with at least, and minutes to go that are told at most."""

WORTH_REPEATING = 0.1
"""Where no test gives so many bits, the one reading on which a repair rests is taken again."""

SEEK_RATE = 0.025
"""Expected information a minute from which something that comes and goes is still sought on a bike
that is well now."""


@dataclass(frozen=True, slots=True)
class Answer:
    """A possible answer of a test: how likely, and what would then be suspected."""

    outcome: Outcome
    probability: float
    meaning: str
    index: int


@dataclass(frozen=True, slots=True)
class Proposal:
    """A test with its worth and the minutes it takes from the bike's present state."""

    test: Test
    bits: float
    minutes: float
    answers: tuple[Answer, ...]


def propose(
    trace: Trace, count: int = 1, skip: frozenset[str] = frozenset(), explained: int | None = None
) -> tuple[Proposal, ...]:
    """Return the best next tests by expected bits about the repair per minute.

    `skip` holds ids of tests that cannot be done now, beside what the trace's terms leave out; only
    the first `explained` get what their answers would mean, all where it is None.
    """
    skip = skip | trace.left_out
    tables, bits = trace.information()
    wanted = _wanted(trace, tables, skip)
    made = [test_id(item) for item in trace.evidence if not item.told]
    again_wanted = {trace.doubtful, trace.taken_again}
    done = set(made) - again_wanted - _moved_once(trace, made) | skip
    state = present_state(trace)
    scored = []
    for item, gain in zip(tables, bits, strict=True):
        gain = gain * trace.news_of(item.test)
        if wanted is not None:
            least = wanted.get(item.test.id)
        else:
            least = MIN_BITS
        if least is None or gain < least or item.test.id in done:
            continue
        minutes = minutes_of(trace, item.test, state)
        scored.append((float(gain) / minutes, float(gain), minutes, item))
    # Nothing tells much any more. Rather than measure at random, the one reading that carries the
    # repair is taken again.
    if all(gain < WORTH_REPEATING for _, gain, _, _ in scored):
        again = _again(trace, tables)
    else:
        again = None
    if again is not None and again.test.id not in skip and trace.due is None:
        scored = [(0.0, 0.0, minutes_of(trace, again.test, state), again)]
    if any(_is_worth_first(row[3].test, row[1]) for row in scored):
        late = _live_probing(trace)
    else:
        late = set()
    # Bits a minute decide. Live probing of high volts stands behind dead tests however much it
    # tells, and the id breaks ties so that two technicians see the same order.
    scored.sort(key=lambda row: (row[3].test.id in late, -row[0], row[3].test.id))
    most = count if explained is None else explained
    return tuple(
        Proposal(item.test, gain, minutes, answers(trace, item) if n < most else ())
        for n, (_, gain, minutes, item) in enumerate(scored[:count])
    )


DEAD_FIRST_BITS = 0.1
"""Where a test without power tells so much, no probe touches more than 60 V or bare lugs before
it."""


def _is_worth_first(test: Test, bits: float) -> bool:
    return test.condition.power == "out" and bits >= DEAD_FIRST_BITS


def _live_probing(trace: Trace) -> set[str]:
    """Return the tests at which probes touch live points of a bike over 60 V or with bare lugs."""
    bike = trace.engine.bike
    if not (is_high(bike) or _has_lugs(bike)):
        return set()
    found: set[str] = set()
    for test in trace.engine.tests:
        if test.condition.power != "out" and test.red and test.black:
            found.add(test.id)
    return found


def _has_lugs(bike: Bike) -> bool:
    """Return whether pack volts stand on bare lugs."""
    ports = (port for part in bike.parts for port in part.ports)
    return any(port.family.startswith("lug") for port in ports)


def _moved_once(trace: Trace, made: list[str]) -> set[str]:
    """Return the places that moved something when they were moved once: worth doing again, as it
    settles it."""
    moved = set()
    for item in trace.evidence:
        if item.kind == "wiggle" and item.value == "moves":
            moved.add(test_id(item))
    return {name for name in moved if made.count(name) < 2}


def _again(trace: Trace, tables: tuple[OutcomeTable, ...]) -> OutcomeTable | None:
    """Return the test to do once more: the one on which alone a repair rests, where nothing else
    tells much."""
    if trace.hanging_on is None:
        return None
    wanted = test_id(trace.evidence[trace.hanging_on])
    made = sum(not item.told and test_id(item) == wanted for item in trace.evidence)
    known = []
    for table in tables:
        if table.test.id == wanted and not table.test.scene:
            known.append(table)
    if known and made < 2:
        return known[0]
    return None


def _wanted(
    trace: Trace, tables: tuple[OutcomeTable, ...], skip: frozenset[str]
) -> dict[str, float] | None:
    """Return the ids of the tests that may come next with the bits they must give, None where any
    may.

    After a told hazard the tests without power come first, one by one. What has to be asked comes
    before a purchase. While nothing is wrong here, the trouble is first brought about: every scene
    is looked at, that of the complaint among them, then what the rider told of that no look shows
    is sought, and what comes and goes.
    """
    # After a smell, smoke, heat or water power may do harm: what can be read dead is read first,
    # one after the other, whether or not it tells much.
    if trace.terms.dead_first:
        dead = left_to_check(trace.engine, trace.evidence, skip)
    else:
        dead = ()
    made = {test_id(item) for item in trace.evidence if not item.told}
    telling = {table.test.id for table in tables}
    fresh = [test.id for test in dead if test.id in telling - made - skip]
    if fresh:
        return {fresh[0]: 0.0}
    once = None if trace.clean else trace.seen_once
    # What has to be asked before money is spent; then the one look that alone says something is
    # wrong, once more; then what was seen a single time.
    for first in (trace.due, trace.doubtful, trace.taken_again, once):
        if first is not None and first not in skip:
            return {first: 0.0}
    if not trace.clean:
        return None
    left = unseen_scenes(trace, skip)
    # While the bike behaves, numbers tell nothing: the trouble has to be brought about first.
    if left:
        return dict.fromkeys(left, 0.0)
    told = {item.value for item in trace.evidence if item.kind == "past"}
    sought = []
    for t in tables:
        if told & set(kind_of(t.test.kind).seeks):
            sought.append(t.test.id)
    # Where the trouble cannot be brought about, everything that can carry it is measured instead.
    if not trace.brought_about and not set(sought) - made - skip:
        return None
    moving = [t.test for t in tables if t.test.kind == "wiggle" or t.test.state]
    worth = {}
    for test in moving if trace.may_come_and_go else ():
        worth[test.id] = SEEK_RATE * test.minutes
    return dict.fromkeys(sought, 0.0) | worth


def minutes_left(trace: Trace, best: Sequence[Proposal]) -> int | None:
    """Return a rough number of minutes to the repair; None where nothing is left to measure.

    Bits left about the place of the fault, over what the most telling of the best tests gives of
    them a minute.
    """
    # While tests are still being worked out the best of them may not be there: nothing is promised.
    if not best or trace.stopped or not trace.engine.ready:
        return None
    membership = np.zeros((len(trace.belief), len(trace.suspects)))
    for n, suspect in enumerate(trace.suspects):
        membership[list(suspect.members), n] = 1.0
    # The best tests at hand set the pace. It is told as a rough number, so a floor keeps a nearly
    # dry well from promising hours.
    rate = LEAST_RATE
    for item in best:
        table = trace.engine.outcome(item.test.id)
        if table is not None:
            bits = expected_information(
                table.probability[None].astype(np.float64), trace.belief, membership
            )
            rate = max(rate, float(bits[0]) / item.minutes)
    left = float(entropy_bits(membership.T @ trace.belief))
    return max(1, min(round(left / rate), MOST_LEFT_MIN))


def unseen_scenes(trace: Trace, skip: frozenset[str] = frozenset()) -> list[str]:
    """Return the looks at the whole bike that were not made yet; those ridden for only where the
    complaint is of riding."""
    told = {item.scene for item in trace.evidence if item.told}
    done = {test_id(item) for item in trace.evidence if not item.told} | skip
    sought = set()
    for item in trace.evidence:
        if item.told:
            sought.add(f"look {item.scene} ~{item.state or AGAIN}")
    sought &= trace.engine.by_id.keys()
    every = []
    for t in trace.engine.stack().tables:
        if t.test.scene and kind_of(t.test.kind).first:
            every.append(t.test)
    first = [t for t in every if t.scene in told and t.id not in done]
    rest = [t for t in every if "road" not in t.gates and t.id not in done]
    if first:
        return [test.id for test in first]
    return [*(test.id for test in rest), *sorted(sought - done)]


def answers(trace: Trace, item: OutcomeTable) -> tuple[Answer, ...]:
    """Return what each outcome of a test would mean, most likely first."""
    found = []
    groups = np.full(len(trace.belief), len(trace.suspects))
    for n, suspect in enumerate(trace.suspects):
        groups[list(suspect.members)] = n
    for k, outcome in enumerate(item.outcomes):
        likely = float(item.probability[k] @ trace.belief)
        if not outcome.evidence or likely < LEAST_ANSWER:
            continue
        after = posterior_after(item.probability[k], trace.belief)
        found.append(Answer(outcome, likely, meaning(trace, after, groups), k))
    return tuple(sorted(found, key=lambda a: -a.probability)[:MOST_ANSWERS])


def meaning(trace: Trace, after: NDArray[np.float64], groups: NDArray[np.int_]) -> str:
    """Return in words what a belief [H] points to; `groups` [H] says to which suspect a hypothesis
    belongs."""
    shares = np.bincount(groups, weights=after, minlength=len(trace.suspects) + 1)[
        : len(trace.suspects)
    ]
    lead = []
    for n in np.argsort(-shares, kind="stable")[:2]:
        if shares[n] > TELLING_SHARE:
            lead.append(trace.suspects[n].title)
    if lead:
        return " or ".join(lead)
    return f"still open, {int((shares > OPEN_SHARE).sum())} suspects"


@dataclass(frozen=True, slots=True)
class Shift:
    """What one piece of evidence did: suspects it raised and lowered (title, before, after)."""

    raised: tuple[tuple[str, float, float], ...]
    lowered: tuple[tuple[str, float, float], ...]
    remaining: int


def shifts(trace: Trace) -> tuple[Shift, ...]:
    """Return per piece of evidence, in order, which suspects it moved."""
    prior = trace.engine.hypotheses.prior
    before = posterior(prior, [])
    found = []
    for k in range(len(trace.logs)):
        after = posterior(prior, trace.logs[: k + 1])
        rows = []
        for suspect in trace.suspects:
            members = list(suspect.members)
            rows.append((suspect.title, float(before[members].sum()), float(after[members].sum())))
        up = sorted((r for r in rows if r[2] - r[1] > MOVED), key=lambda r: r[1] - r[2])[:3]
        down = sorted((r for r in rows if r[1] - r[2] > MOVED), key=lambda r: r[2] - r[1])[:3]
        found.append(Shift(tuple(up), tuple(down), sum(r[2] >= LEAST_LEFT for r in rows)))
        before = after
    return tuple(found)


def expectation(trace: Trace, item: Evidence, hypothesis: int) -> str:
    """Return in words what a hypothesis would have given for a piece of evidence."""
    table = trace.engine.table
    found = trace.engine.hypotheses
    if hypothesis >= found.modelled:
        return "anything"
    words = kind_of(item.kind).expected(table, item, found.items[hypothesis].row)
    if words and found.items[hypothesis].loose:
        return f"{words}, or as on a healthy bike"
    return words


def evidence_title(engine: Engine, item: Evidence) -> str:
    """Return a piece of evidence in words, without its value."""
    kind = kind_of(item.kind)
    listed = engine.by_id.get(kind.test_id(item))
    if listed is None or item.observable:
        return kind.title(engine.bench, item)
    return listed.title


def evidence_value(item: Evidence) -> str:
    """Return the value of a piece of evidence in words."""
    return kind_of(item.kind).value_words(item)
