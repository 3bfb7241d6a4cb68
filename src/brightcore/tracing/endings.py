"""Where a trace stands: one table of endings, asked from the first to the last.

The first ending that holds is the one that is told. Their order is their precedence: what somebody
described wrongly makes every other answer worthless and is therefore asked first; a repair comes
before a doubt; "measure on" holds where no other does. A new ending is one line of `ENDINGS`.
"""

from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from brightcore.circuit.faults import RepairKind
from brightcore.tracing.advice import propose
from brightcore.tracing.hypotheses import NONE_REPAIR, OTHER_REPAIR
from brightcore.tracing.pairs import second_of
from brightcore.tracing.proving import Proof, proof_of
from brightcore.tracing.stakes import LEAST_SURE
from brightcore.tracing.suspects import SUSPECT_PROBABILITY, Suspect
from brightcore.tracing.trace import Trace

DESCRIBE_FROM = 0.3
"""Belief from which something undescribed that was found is described before anything else is
done."""

SILENT_RATIO, MOST_UNPROVEN = 5.0, 8
"""What the looks made this many times less likely is proven good; so many others are named."""

LEAST_MEMBER = 0.01
"""Belief from which a suspect is named among those that one repair puts right."""


@dataclass(frozen=True, slots=True)
class Conclusion:
    """Where the trace stands: `measure`, `repair` (stop rule holds), `describe` (something
    undescribed is on a line), `choose` (nothing left to tell the set apart), `nothing-found`,
    `not-shown` (the same, but what the rider told of could not be tried) or `not-modelled`.

    `second` is the likely second fault where one alone does not account for what was seen,
    `unasked` the look or question that stands before the repair and was skipped. With
    `nothing-found` and `not-shown`, `proven` is what was seen to work and `unproven` what would not
    have shown.
    """

    status: str
    repair: RepairKind | None
    probability: float
    members: tuple[Suspect, ...]
    proof: Proof | None
    proven: tuple[str, ...] = ()
    unproven: tuple[Suspect, ...] = ()
    second: str = ""
    unasked: str = ""


class Stand:
    """What the endings are decided by: a trace, and what is worked out of it when it is asked."""

    def __init__(self, trace: Trace, skip: frozenset[str]) -> None:
        self.trace = trace
        self.skip = skip | trace.left_out
        lead = trace.leading_repair
        self.repair = trace.engine.hypotheses.repairs[lead]
        self.probability = float(trace.repair_belief[lead])

    @cached_property
    def members(self) -> tuple[Suspect, ...]:
        """The suspects that the leading repair puts right."""
        found = []
        for suspect in self.trace.suspects:
            if suspect.repair.id == self.repair.id and suspect.probability > LEAST_MEMBER:
                found.append(suspect)
        return tuple(found)

    @property
    def names_a_repair(self) -> bool:
        """Whether the leading repair is one that can be done."""
        return not self.trace.names_nothing

    @cached_property
    def unasked(self) -> str:
        """What had to be asked before a purchase and was skipped, "" where there is nothing."""
        due = self.trace.due
        if due is None or due not in self.skip:
            return ""
        return self.trace.engine.by_id[due].title

    @cached_property
    def nothing_left(self) -> bool:
        """Whether no test is worth doing any more."""
        # While predictions are being made nothing is known to be left, and nothing is concluded.
        if not self.trace.engine.ready:
            return False
        return not propose(self.trace, skip=self.skip, explained=0)

    @cached_property
    def undescribed(self) -> int | None:
        """The repair of a line on which something undescribed was found, None where there is none.

        It counts where it may well be the trouble, or where the trace waits for its description.
        """
        repairs = self.trace.engine.hypotheses.repairs
        for item in self.trace.evidence:
            if (item.kind, item.value) != ("ask", "yes"):
                continue
            for index, repair in enumerate(repairs):
                if repair.id != item.subject:
                    continue
                likely = self.trace.repair_belief[index] >= DESCRIBE_FROM
                # A line that somebody found something on is described even where it is unlikely to
                # be the trouble, once a repair that costs money would be named instead.
                if likely or item.subject == self.trace.describe_first:
                    return index
        return None

    @cached_property
    def second(self) -> str | None:
        """The likely second fault, None where one accounts for everything."""
        return second_of(self.trace)

    def concluded(
        self,
        status: str,
        members: tuple[Suspect, ...] | None = None,
        second: str = "",
        unasked: str = "",
    ) -> Conclusion:
        """Return an ending that names the leading repair and how to prove it."""
        return Conclusion(
            status,
            self.repair,
            self.probability,
            self.members if members is None else members,
            proof_of(self.trace, self.repair.id),
            second=second,
            unasked=unasked,
        )


@dataclass(frozen=True, slots=True)
class Ending:
    """One way a trace can stand: its name, when it holds, what it then says."""

    name: str
    holds: Callable[[Stand], bool]
    says: Callable[[Stand], Conclusion]


def _is_sure(stand: Stand) -> bool:
    return (stand.trace.stopped or bool(stand.unasked)) and stand.names_a_repair


def _is_outside_the_model(stand: Stand) -> bool:
    return stand.trace.stopped and stand.repair.id == OTHER_REPAIR.id


def _was_not_brought_about(stand: Stand) -> bool:
    trace = stand.trace
    nothing_here = trace.clean or (trace.stopped and trace.names_nothing and not trace.far)
    return stand.nothing_left and nothing_here and not trace.brought_about


def _is_well_now(stand: Stand) -> bool:
    trace = stand.trace
    return stand.nothing_left and (trace.clean or (trace.stopped and not trace.far))


def _is_unexplained(stand: Stand) -> bool:
    # A number that was taken again and still lies far from a sound bike's is a finding, though
    # nothing on the list gives it.
    trace = stand.trace
    return stand.nothing_left and bool(trace.unexplained) and trace.names_nothing


def _is_all_that_is_left(stand: Stand) -> bool:
    # Belief alone does not end a trace: what was read must fit, show the complaint, and not hang
    # on one reading that nobody took twice.
    trace = stand.trace
    alone = stand.probability >= LEAST_SURE and not trace.hangs and trace.fits
    return stand.nothing_left and alone and trace.shows and stand.names_a_repair


def _leads_with_a_second(stand: Stand) -> bool:
    trace = stand.trace
    leading = trace.leads and trace.shows and stand.names_a_repair
    return stand.nothing_left and leading and stand.second is not None


def _describe(stand: Stand) -> Conclusion:
    trace, index = stand.trace, stand.undescribed
    assert index is not None
    repair = trace.engine.hypotheses.repairs[index]
    members = tuple(s for s in trace.suspects if s.repair.id == repair.id)
    return Conclusion("describe", repair, float(trace.repair_belief[index]), members, None)


def _repair(stand: Stand) -> Conclusion:
    return stand.concluded("repair", unasked=stand.unasked)


def _sure(stand: Stand) -> Conclusion:
    status = "describe" if stand.repair.describes else "repair"
    return stand.concluded(status, unasked=stand.unasked)


def _not_modelled(stand: Stand) -> Conclusion:
    return Conclusion("not-modelled", stand.repair, stand.probability, stand.members, None)


def _two(stand: Stand) -> Conclusion:
    return stand.concluded("repair", second=stand.second or "")


def _choose(stand: Stand) -> Conclusion:
    # Nothing left tells them apart: all of them are named, and what is cheapest to try comes first
    # on the page.
    rows = []
    for s in stand.trace.suspects:
        if s.probability > SUSPECT_PROBABILITY:
            rows.append(s)
    likely = tuple(rows)
    return stand.concluded("choose", members=likely)


def _measure(stand: Stand) -> Conclusion:
    return Conclusion("measure", stand.repair, stand.probability, stand.members, None)


ENDINGS = (
    Ending("describe first", lambda stand: stand.undescribed is not None, _describe),
    Ending("repair", _is_sure, _sure),
    Ending("not modelled", _is_outside_the_model, _not_modelled),
    Ending("unexplained", _is_unexplained, _not_modelled),
    Ending("not brought about", _was_not_brought_about, lambda stand: _not_shown(stand.trace)),
    Ending("nothing found", _is_well_now, lambda stand: _nothing_found(stand.trace)),
    Ending("all that is left", _is_all_that_is_left, _repair),
    Ending("two faults", _leads_with_a_second, _two),
    Ending("choose", lambda stand: stand.nothing_left, _choose),
    Ending("measure on", lambda stand: True, _measure),
)
"""Every ending, in order of precedence."""


def conclude(trace: Trace, skip: frozenset[str] = frozenset()) -> Conclusion:
    """Return where the trace stands; `skip` as in `propose`."""
    stand = Stand(trace, skip)
    return next(ending.says(stand) for ending in ENDINGS if ending.holds(stand))


def _not_shown(trace: Trace) -> Conclusion:
    """Return the ending of a bike on which nothing is wrong as far as it could be tried: what the
    rider told of could not be."""
    return replace(_nothing_found(trace), status="not-shown")


def _nothing_found(trace: Trace) -> Conclusion:
    """Return the ending of a bike on which nothing is wrong now: what was seen to work, what was
    not proven."""
    engine = trace.engine
    seen = dict.fromkeys(trace.evidence[i].scene for i in trace.now if trace.evidence[i].scene)
    proven = tuple(engine.table.scenes[scene].title for scene in seen)
    strength = trace.strength
    limit = strength[0] - np.log(SILENT_RATIO)
    silent = []
    for s in trace.suspects:
        if (
            s.repair.id not in (NONE_REPAIR.id, OTHER_REPAIR.id)
            and max(float(strength[m]) for m in s.members) > limit
        ):
            silent.append(s)
    share = float(sum(trace.belief[m] for s in silent for m in s.members) + trace.belief[0])
    return Conclusion(
        "nothing-found", NONE_REPAIR, share, (), None, proven, tuple(silent[:MOST_UNPROVEN])
    )
