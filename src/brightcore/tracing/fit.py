"""What leads on one job, and how well it fits: belief over hypotheses and repairs, readings that
are odd under what leads, and whether one fault accounts for them at all.

Nothing here decides: `trace.py` says from this when a repair is named, and what comes before.
"""

from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from brightcore.belief.bayes import posterior
from brightcore.tracing.found import Found
from brightcore.tracing.stakes import LEAST_SURE
from brightcore.tracing.tests import test_id

Floats = NDArray[np.float64]

ODD_RATIO = 0.02
"""A reading contradicts the leading explanation where that gives it this share of what the best one
does."""

UNMODELLED_LEADS = 0.3
"""Belief in "not modelled" from which evidence counts as contradictory."""

SHOWN_RATIO = 20.0
"""What was found must be this much likelier than on a healthy bike before a repair is named."""

CHANCE_SHARE = 0.1
"""A reading is odd where an explanation gives it less than this share of what mere chance would."""

MANY_READINGS = 4
"""From so many readings one odd one is taken for a slip."""

FEW_READINGS = 3
"""Fewer pieces of evidence are not yet called contradictory."""


class Fit(Found):
    """Belief on the evidence of one job, and what of the evidence does not fit what leads."""

    @cached_property
    def belief(self) -> Floats:
        """Posterior over hypotheses [H]."""
        return posterior(self.engine.hypotheses.prior, self.logs)

    @cached_property
    def repair_belief(self) -> Floats:
        """Posterior over repairs [G]."""
        return np.asarray(self.engine.membership.T @ self.belief)

    @property
    def leading_repair(self) -> int:
        """Index of the most probable repair."""
        return int(np.argmax(self.repair_belief))

    def belief_without(self, index: int) -> Floats:
        """Return the posterior [H] with one piece of evidence left out, and what was told of the
        same."""
        left_out = self.same_thing(index)
        logs = [log for i, log in enumerate(self.logs) if i not in left_out]
        return posterior(self.engine.hypotheses.prior, logs)

    def without(self, index: int) -> Floats:
        """Return the repair posterior [G] with one piece of evidence left out, and what was told of
        the same."""
        return np.asarray(self.engine.membership.T @ self.belief_without(index))

    @cached_property
    def leading(self) -> int:
        """Index of the most probable hypothesis of the leading repair."""
        members = np.flatnonzero(self.engine.hypotheses.repair_of == self.leading_repair)
        return int(members[np.argmax(self.belief[members])])

    @property
    def names_nothing(self) -> bool:
        """Whether what leads is no repair: no fault now, or something not modelled."""
        return self.leading in (0, len(self.belief) - 1)

    @cached_property
    def clean(self) -> bool:
        """Whether nothing was found here that a healthy bike would not show as well; a single
        number may be off where no fault explains it better than none, and a single look that
        many tries did not bear out."""
        if self.far:
            return False
        looks = any(self.evidence[i].observable for i in self.abnormal)
        if not self.abnormal or (not looks and self.leading == 0):
            return True
        return self.seen_once is not None and self.seen_once in {
            test_id(self.evidence[i]) for i in self.now
        }

    @cached_property
    def shows(self) -> bool:
        """Whether what was found here speaks for the leading explanation, against a healthy
        bike."""
        # Row 0 is the healthy bike. A repair that explains the readings no better than nothing at
        # all rests on its prior alone, and nobody should open a motor for that.
        gain = sum(float(self.said[i][self.leading] - self.said[i][0]) for i in self.now)
        return bool(gain > np.log(SHOWN_RATIO))

    @cached_property
    def odd(self) -> tuple[int, ...]:
        """Indices of evidence here that the leading explanation gives far less than mere chance
        would."""
        return self._odd_under(self.leading)

    def _odd_under(self, index: int) -> tuple[int, ...]:
        """Return the indices of evidence here that a hypothesis gives far less than mere chance
        would."""
        # Against chance, not against the best explanation: something exotic may foretell any
        # reading exactly without being likely.
        limit = np.log(CHANCE_SHARE)
        found = []
        for i in self.now:
            if self.plain[i][index] < self.anything[i] + limit:
                found.append(i)
        return tuple(found)

    @cached_property
    def fits(self) -> bool:
        """Whether the leading explanation accounts for what was found here: one slip in many is
        allowed, where the rest says the same."""
        if not self.odd:
            return True
        if len(self.odd) > 1 or len(self.now) < MANY_READINGS:
            return False
        rest = self.without(self.odd[0])
        return bool(rest[self.leading_repair] >= LEAST_SURE)

    @cached_property
    def strength(self) -> Floats:
        """Evidence-only log likelihood [H] relative to the best explanation (priors left out)."""
        total = np.zeros(len(self.engine.hypotheses.items))
        dropped = {i for i, _ in self.contradicting}
        for i, log in enumerate(self.said):
            if i not in dropped:
                total = total + log
        return np.asarray(total - total.max())

    @cached_property
    def contradicting(self) -> tuple[tuple[int, float], ...]:
        """(index, ratio) of readings that the leading explanation cannot explain.

        The ratio is the reading's likelihood under the leading single fault against the best
        any hypothesis gives it.
        """
        # "Not modelled" contradicts nothing, as it foretells nothing; it must not be the lead that
        # others are measured against.
        belief = self.belief.copy()
        belief[-1] = 0.0
        lead = int(np.argmax(belief))
        found = []
        for i, log in enumerate(self.said):
            ratio = float(np.exp(log[lead] - log[:-1].max()))
            if ratio < ODD_RATIO:
                found.append((i, ratio))
        return tuple(found)

    @property
    def contradictory(self) -> bool:
        """Whether the evidence fits no single fault well."""
        top_is_other = bool(self.belief[-1] > UNMODELLED_LEADS)
        seen = any(
            self.evidence[i].observable and i in self.abnormal for i, _ in self.contradicting
        )
        return bool(self.contradicting) and (
            top_is_other or seen or (len(self.evidence) >= FEW_READINGS and not self._robust())
        )

    def _robust(self) -> bool:
        """Whether the leading repair would lead without the contradicting readings, too."""
        lead = self.leading_repair
        return len(self.contradicting) == 1 and all(
            int(np.argmax(self.without(i))) == lead for i, _ in self.contradicting
        )
