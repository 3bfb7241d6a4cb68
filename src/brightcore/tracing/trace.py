"""When one job stops: what stands before a repair is named, and what the next test may tell."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from brightcore.belief.bayes import expected_information, posterior
from brightcore.tracing.engine import Engine
from brightcore.tracing.evidence import Evidence
from brightcore.tracing.fit import Fit
from brightcore.tracing.own_side import own_side_test
from brightcore.tracing.stacked import Stacked
from brightcore.tracing.stakes import LEAST_SURE, THOUGHT_MIN, Choice, best_saving, wrong_minutes
from brightcore.tracing.states import AGAIN
from brightcore.tracing.suspects import Suspect, indistinct_of, lines_of, suspects_of
from brightcore.tracing.terms import USUAL, Terms
from brightcore.tracing.tests import (
    OutcomeTable,
    kind_of,
    test_id,
)

Floats = NDArray[np.float64]

LEAST_TESTS = 2
"""Different tests made here from which a repair is named: one look alone does not carry it."""

OTHERS_CLEAN, OTHERS_CLEAN_TOLD = 1, 4
"""A single finding is looked at again where so many other tests were clean; later where the rider
told of it."""

ASK_RATIO = 30.0
"""Something undescribed is asked about before a purchase, unless it explains the evidence so much
worse."""

ASK_RATIO_WHERE_IT_FITS = 1e6
"""The same where it leaves no reading odd: what nobody knows foretells widely, and so never
likely."""

MISFIT_FROM = 0.3
"""Belief in a repair from which a reading that does not fit it is taken again."""

NEGLIGIBLE = 1e-5
"""Hypotheses below this belief do not count for choosing the next test."""


@dataclass(frozen=True, slots=True)
class Pair:
    """Two faults at once, by index of their hypotheses, and their share among the pairs tried."""

    first: int
    second: int
    share: float


class Trace(Fit):
    """When one job stops, what comes before that, and what the next test may tell."""

    def __init__(
        self,
        engine: Engine,
        evidence: Sequence[Evidence],
        cache: dict[Evidence, Floats] | None = None,
        terms: Terms = USUAL,
    ) -> None:
        super().__init__(engine, evidence, cache)
        self.terms = terms
        self.pairs: tuple[Pair, ...] | None = None
        self._information: tuple[Stacked, Floats] | None = None
        self._stacked: tuple[Stacked, Stacked] | None = None

    @cached_property
    def left_out(self) -> frozenset[str]:
        """Ids of the tests that cannot be done here."""
        found = []
        for test in self.engine.by_id.values():
            if self.terms.leaves_out(test.id, test.kind, kind_of(test.kind).needs(test)):
                found.append(test.id)
        return frozenset(found)

    @cached_property
    def hanging_on(self) -> int | None:
        """Index of a single reading on which alone a repair rests that would be named, or None."""
        lead = self.leading_repair
        if self.repair_belief[lead] < LEAST_SURE:
            return None
        # Only the weakest point is looked at: if leaving out the reading that carries most leaves
        # the same repair leading, leaving out any other does too.
        left = [float(self.without(i)[lead]) for i in range(len(self.logs))]
        weakest = int(np.argmin(left)) if left else None
        if weakest is not None and int(np.argmax(self.without(weakest))) != lead:
            return weakest
        return None

    @property
    def hangs(self) -> bool:
        """Whether what leads rests on a single reading, or on a single test."""
        return self.hanging_on is not None or len(self.made) < LEAST_TESTS

    @cached_property
    def stopped(self) -> bool:
        """Whether one repair is sure enough, leads with any one reading left out, explains what
        was seen, and nothing has to be asked before."""
        if self.names_nothing:
            return self.leads
        return self._established and self.before_repair is None

    @property
    def due(self) -> str | None:
        """Id of the one look or question that alone stands before the repair to be named."""
        if self._established:
            return self.before_repair
        return None

    @property
    def leads(self) -> bool:
        """Whether one repair stands above all others, leads with any one reading left out, and no
        further test pays."""
        sure = self.repair_belief[self.leading_repair] >= LEAST_SURE
        return bool(sure) and not self.hangs and not self.another_pays

    @cached_property
    def another_pays(self) -> bool:
        """Whether a further test saves more than it takes, against the leading repair now."""
        if not self.engine.ready:
            # While tests are being worked out one is thought of that would settle it.
            return self.at_stake > THOUGHT_MIN
        stack = self._stack()
        keep = np.flatnonzero(self.belief > NEGLIGIBLE)
        repairs = np.flatnonzero(self.engine.membership[keep].any(axis=0))
        choice = Choice(
            stack.tables,
            stack.padded(keep),
            self.belief[keep],
            self.engine.membership[np.ix_(keep, repairs)],
            self.wrong[repairs],
        )
        return best_saving(self, choice) > 0

    @cached_property
    def wrong(self) -> Floats:
        """What each repair costs in vain, in minutes [G]."""
        repairs = self.engine.hypotheses.repairs
        return np.array([wrong_minutes(repair, self.terms) for repair in repairs])

    @property
    def at_stake(self) -> float:
        """Expected minutes lost where the leading repair is made now."""
        lead = self.leading_repair
        return float((1.0 - self.repair_belief[lead]) * self.wrong[lead])

    @property
    def _established(self) -> bool:
        # What does not fit is taken again before anything is called found: "it does not fit" and
        # "found" never stand on one page.
        settled = not self.contradictory or self.taken_again is None
        return self._is_likely_enough and settled

    @property
    def _is_likely_enough(self) -> bool:
        return not self.names_nothing and self.leads and self.shows and self.fits

    @cached_property
    def doubtful(self) -> str | None:
        """Id of the one look that alone says something is wrong, where nobody told of it and others
        are clean: it is made again. None where it has been, or where there is more."""
        seen = [i for i in self.abnormal if self.evidence[i].observable]
        numbers = len(seen) < len(self.abnormal)
        seen = [i for i in seen if self._odd_alone(i)]
        looks = {test_id(self.evidence[i]) for i in seen}
        if len(looks) != 1 or (numbers and not self.names_nothing):
            return None
        (only,) = looks
        told = set()
        for item in self.evidence:
            if item.told:
                told.add((item.observable, item.value))
        confirmed = any((self.evidence[i].observable, self.evidence[i].value) in told for i in seen)
        made = [i for i in self.now if test_id(self.evidence[i]) == only]
        again = len({self.evidence[i].observable for i in made}) < len(made)
        others = {test_id(self.evidence[i]) for i in self.now} - {only}
        if confirmed and (len(seen) > 1 or only.endswith(f"~{AGAIN}")):
            return None  # told, and seen in more than one way or at many tries: no slip of the eye
        only = only.removesuffix(f" ~{AGAIN}")
        enough = OTHERS_CLEAN_TOLD if confirmed else OTHERS_CLEAN
        if not again and len(others) >= enough:
            return only
        return None

    @cached_property
    def taken_again(self) -> str | None:
        """Id of the one test whose reading no fault explains, or what leads does not fit, where it
        was taken a single time: it is taken once more before anything else. None where there is
        none."""
        for i in (*self.unexplained, *self._misfits()):
            name = test_id(self.evidence[i])
            if not self._was_repeated(i) and name in self.engine.by_id:
                return name
        return None

    def _misfits(self) -> tuple[int, ...]:
        """Return the indices of readings here that do not fit what leads, where the rest speaks
        for it or nothing fits at all."""
        if self.names_nothing or self.repair_belief[self.leading_repair] < MISFIT_FROM:
            return ()
        if not self.fits:
            return self.odd
        # It would be named now, and one reading says otherwise: that one is taken again before.
        if self.contradictory and self._is_likely_enough:
            return tuple(i for i, _ in self.contradicting if i in self.now)
        return ()

    def _was_repeated(self, index: int) -> bool:
        """Return whether what a piece of evidence tells was asked more than once here."""
        own = self.evidence[index]
        times = 0
        for i in self.now:
            other = self.evidence[i]
            same = (test_id(other), other.observable) == (test_id(own), own.observable)
            times += same
        return times > 1

    @cached_property
    def before_repair(self) -> str | None:
        """Id of the test that stands before the leading repair: the look at a setting that would
        be changed, the volts that it rests on, or the question for something undescribed that
        explains the evidence about as well. None where there is none, or it has been done."""
        h = self.engine.hypotheses
        lead = h.items[self.leading].repair
        if lead.of_setting:
            look = f"inspect {lead.id}"
            done = any(item.kind == "inspect" and item.subject == lead.id for item in self.evidence)
            if look in self.engine.by_id and not done:
                return look
            return None
        if lead.read_at:
            ends = " ".join(lead.read_at)
            read = any(f"{item.red} {item.black}" == ends for item in self.evidence)
            look = f"volts {ends} @ off"
            if look in self.engine.by_id and not read:
                return look
        own_side = own_side_test(self, lead)
        if own_side is not None:
            return own_side
        if lead.describes or (lead.cost_level < 1 and not lead.of_join):
            return None
        asked = {item.subject for item in self.evidence if item.kind == "ask"}
        return next((f"ask {line}" for line in self.near_lines if line not in asked), None)

    @cached_property
    def near_lines(self) -> tuple[str, ...]:
        """Lines (repairs `describe:…`) on which something undescribed accounts for what was found
        about as well as what leads, the best first."""
        items = self.engine.hypotheses.items
        lines = [i for i, item in enumerate(items) if item.repair.describes]
        lines.sort(key=lambda i: -self.strength[i])
        # Priors are left out here. That something undescribed is on a line is always rare; what
        # counts is whether it would account for the readings.
        near = self.strength[self.leading] - np.log(ASK_RATIO)
        far = self.strength[self.leading] - np.log(ASK_RATIO_WHERE_IT_FITS)
        found = [
            items[i].repair.id
            for i in lines
            if self.strength[i] > near or (self.strength[i] > far and not self._odd_under(i))
        ]
        return tuple(dict.fromkeys(found))

    @cached_property
    def describe_first(self) -> str | None:
        """The line on which something undescribed was found that may as well be the trouble, where
        a repair that costs something would be named; None where there is none."""
        lead = self.engine.hypotheses.repairs[self.leading_repair]
        if not self._established or lead.describes or (lead.cost_level < 1 and not lead.of_join):
            return None
        there = set()
        for item in self.evidence:
            if item.kind == "ask" and item.value == "yes":
                there.add(item.subject)
        return next((line for line in self.near_lines if line in there), None)

    @cached_property
    def suspects(self) -> tuple[Suspect, ...]:
        """Hypotheses grouped by place, most probable first."""
        return suspects_of(self.engine.hypotheses, self.belief)

    @cached_property
    def indistinct(self) -> tuple[tuple[Suspect, ...], ...]:
        """Leading suspects that no remaining test tells apart, as groups of two or more."""
        return indistinct_of(self.engine.stack(), self.suspects, self.belief)

    @cached_property
    def lines(self) -> tuple[tuple[Suspect, ...], ...]:
        """The ranking, most probable first: one line for suspects that no remaining test tells
        apart."""
        return lines_of(self.suspects, self.indistinct)

    def _stack(self) -> Stacked:
        """Return the engine's stack with the looks in a state that the rider named, those of
        trying again where it comes and goes, and of trying again what was told while nothing
        shows."""
        stack = self.engine.stack()
        if self._stacked is None or self._stacked[0] is not stack:
            self._stacked = stack, stack.with_more(self._variants(stack))
        return self._stacked[1]

    def _variants(self, stack: Stacked) -> list[OutcomeTable]:
        """Return the looks in a state that this job asks for."""
        told = [item for item in self.evidence if item.told]
        scenes = [t.test.scene for t in stack.tables if t.test.kind == "look"]
        states = dict.fromkeys(item.state for item in told if item.state)
        if self.may_come_and_go or self.seen_once is not None:
            states[AGAIN] = None
        variants = []
        for state in states:
            for scene in scenes:
                variants.append(f"look {scene} ~{state}")
        if self.clean:
            variants += [f"look {item.scene} ~{AGAIN}" for item in told]
        found = []
        for variant in dict.fromkeys(variants):
            if variant in self.engine.by_id:
                found.append(self.engine.outcome(variant))
        return [item for item in found if item is not None]

    def _unsettled(self) -> Floats:
        """Return the belief [H] from which the next test is chosen: without the reading on which a
        repair rests, and with half the weight of what a single test gave."""
        # Without that reading the belief is open again, and the test that tells most is the one
        # that confirms or refutes it independently.
        if self.hanging_on is not None:
            return self.belief_without(self.hanging_on)
        if self.clean and not self.brought_about:
            # What was looked at is well, but not what the rider told of: the question is then where
            # it would be, not whether.
            assumed = self.belief.copy()
            assumed[0] = 0.0
            return np.asarray(assumed / assumed.sum())
        if len(self.made) < LEAST_TESTS and self.repair_belief[self.leading_repair] >= LEAST_SURE:
            # Half the weight: one look that says everything should still leave room for a second,
            # different test to be worth its minutes.
            return posterior(self.engine.hypotheses.prior, [log / 2 for log in self.logs])
        return self.belief

    def information(self) -> tuple[tuple[OutcomeTable, ...], Floats]:
        """Return ready tests and their expected information [T] in bits about the repair.

        Where a repair rests on one reading, that reading is left out of the belief, so that
        what confirms it independently comes first.
        """
        stack = self._stack()
        if self._information is not None and self._information[0] is stack:
            return stack.tables, self._information[1]
        base = self._unsettled()
        # Thousands of hypotheses are dead after two readings. Leaving them out makes the choice of
        # the next test quick, and changes its bits by less than they are told to.
        keep = np.flatnonzero(base > NEGLIGIBLE)
        belief = base[keep] / base[keep].sum()
        repairs = np.flatnonzero(self.engine.membership[keep].any(axis=0))
        membership = self.engine.membership[np.ix_(keep, repairs)]
        bits = expected_information(stack.padded(keep), belief, membership)
        self._information = stack, bits
        return stack.tables, bits
