"""What was found on one job: its evidence, how likely every hypothesis makes it, and what of it a
healthy bike would not show."""

from collections.abc import Sequence
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from brightcore.tracing.engine import Engine
from brightcore.tracing.evidence import Evidence, repeat_weights
from brightcore.tracing.states import AGAIN
from brightcore.tracing.tests import KINDS, Test, kind_of, log_likelihood, test_id, validate

Floats = NDArray[np.float64]

FAR_FLOOR = 0.05
"""A number is far from a sound bike's where that leaves it to a slip of the probe: less than this
share of what mere chance gives (the share of slips in readings is 0.02)."""

FORETOLD = 0.3
"""A fault foretells a number where it gives it at least this share of what mere chance would."""

SEEN_BEFORE = 0.25
"""Worth of a look whose observables were seen in another scene: not independent of it."""

DOUBT = 1.5
"""So many times less a reading weighs than the model says: readings of one bike share what the
model does not know of it. Fitted on bikes of another solver, so that what is shown as 60 % is right
in about 60 of 100 (`docs/strangers.md`)."""


class Found:
    """The active evidence of one job on an engine.

    `plain` holds the log likelihoods [H] of every piece, `said` the same with weights for repeats,
    `logs` what of that is believed (see `DOUBT`), `anything` how likely it is where anything may
    be.
    """

    def __init__(
        self,
        engine: Engine,
        evidence: Sequence[Evidence],
        cache: dict[Evidence, Floats] | None = None,
    ) -> None:
        self.engine = engine
        self.evidence = tuple(evidence)
        cache = {} if cache is None else cache
        for item in self.evidence:
            if item not in cache:
                # Evidence may come with a job file from another shop: what this bike does not have
                # is refused before anything is reckoned with it.
                validate(engine.table, item)
                cache[item] = log_likelihood(engine.table, engine.hypotheses, item)
        self.anything = [np.log(kind_of(item.kind).anything(item)) for item in self.evidence]
        # Ten looks at the same dark lamp are not ten pieces of evidence: repeats of one thing weigh
        # less.
        weights = repeat_weights(list(self.evidence))
        self.plain = [cache[item] for item in self.evidence]
        self.said = [w * log for w, log in zip(weights, self.plain, strict=True)]
        self.logs = [log / DOUBT for log in self.said]

    @cached_property
    def now(self) -> tuple[int, ...]:
        """Indices of evidence of the bike as it stands here: not told, not of its past."""
        found = []
        for i, item in enumerate(self.evidence):
            if not item.told and kind_of(item.kind).entry != "none":
                found.append(i)
        return tuple(found)

    @cached_property
    def reached(self) -> frozenset[str]:
        """Ids of the joins whose plugs were reached already: read at, looked into or parted."""
        tests = []
        for name in self.made & self.engine.by_id.keys():
            tests.append(self.engine.by_id[name])
        found = []
        for test in tests:
            for j in (test.plug, *test.condition.unplugged):
                if j:
                    found.append(j)
        return frozenset(found)

    @property
    def may_come_and_go(self) -> bool:
        """Whether it was told or seen that the trouble comes and goes."""
        return any(item.sometimes or item.state not in ("", AGAIN) for item in self.evidence)

    @cached_property
    def made(self) -> frozenset[str]:
        """Ids of the tests made here."""
        return frozenset(test_id(self.evidence[i]) for i in self.now)

    @cached_property
    def observed(self) -> frozenset[str]:
        """Observables that were looked at here."""
        found = []
        for i in self.now:
            if self.evidence[i].observable:
                found.append(self.evidence[i].observable)
        return frozenset(found)

    def news_of(self, test: Test) -> float:
        """Return what share of what the model expects of a test is news."""
        # A lamp that is dark on the stand is dark on the road: the second look at the same thing
        # tells little, though the model, which knows no habit, would count it in full.
        if test.scene and self.observed & set(self.engine.table.scenes[test.scene].seen):
            return SEEN_BEFORE
        return 1.0

    def same_thing(self, index: int) -> tuple[int, ...]:
        """Return the index of evidence and those of what was told of the same thing."""
        return (index, *(i for i in self._told_of(index) if i != index))

    def _told_of(self, index: int) -> list[int]:
        """Return the indices of what was told of the same thing in the same scene as a piece of
        evidence."""
        own = self.evidence[index]
        found: list[int] = []
        for i, item in enumerate(self.evidence):
            if (
                item.told
                and item.observable
                and (item.scene, item.observable) == (own.scene, own.observable)
            ):
                found.append(i)
        return found

    @cached_property
    def seen_once(self) -> str | None:
        """Id of trying many times over what alone was seen, once, and not when looked at again;
        None where nothing was, or somebody told of it."""
        looks = [i for i in self.abnormal if self.evidence[i].observable]
        # A number that is off stays off; it is no slip of the eye, and nothing has to be tried
        # again for it.
        if not looks or len(looks) < len(self.abnormal):
            return None
        scenes = {self.evidence[i].scene for i in looks}
        told = set()
        for item in self.evidence:
            if item.told:
                told.add((item.observable, item.value))
        odd = [i for i in looks if self._odd_alone(i)]
        if len(scenes) > 1 or len(odd) != 1 or looks[-1] == odd[0]:
            return None
        (only,) = odd
        if (self.evidence[only].observable, self.evidence[only].value) in told:
            return None
        return f"look {scenes.pop()} ~{AGAIN}"

    def _odd_alone(self, index: int) -> bool:
        """Return whether one piece of evidence by itself speaks against a healthy bike."""
        return self._found(self.evidence[index], self.plain[index])

    @staticmethod
    def _found(item: Evidence, log: Floats) -> bool:
        """Return whether evidence of this kind, with these log-likelihoods [H], is a finding at
        all."""
        return bool(log[0] <= log.max() - np.log(kind_of(item.kind).clean_ratio))

    @cached_property
    def far(self) -> tuple[int, ...]:
        """Indices of numbers read here that lie far from what a sound bike gives, whether or not a
        fault explains them. Of a reading that was taken again, the last one counts."""
        last = {}
        for i in self.now:
            if kind_of(self.evidence[i].kind).entry == "number":
                last[test_id(self.evidence[i])] = i
        limit = np.log(FAR_FLOOR)
        return tuple(i for i in last.values() if self.plain[i][0] <= self.anything[i] + limit)

    @cached_property
    def unexplained(self) -> tuple[int, ...]:
        """Indices of the numbers in `far` that no fault on the list foretells."""
        limit = np.log(FORETOLD)
        found = []
        for i in self.far:
            if float(self.plain[i][1:-1].max()) <= self.anything[i] + limit:
                found.append(i)
        return tuple(found)

    @cached_property
    def brought_about(self) -> bool:
        """Whether what the rider told of was tried here: each scene that was told of was looked at,
        and each test made that seeks what no look shows; where nothing was told, anything."""
        scenes = {item.scene for item in self.evidence if item.told and item.scene}
        seen = {self.evidence[i].scene for i in self.now if self.evidence[i].scene}
        told = {item.value for item in self.evidence if item.kind == "past"}
        sought = {kind.name for kind in KINDS if told & set(kind.seeks)}
        kinds = {kind_of(self.evidence[i].kind).name for i in self.now}
        if not scenes and not sought:
            return bool(seen)
        return scenes <= seen and (not sought or bool(sought & kinds))

    @cached_property
    def abnormal(self) -> tuple[int, ...]:
        """Indices of evidence here that a healthy bike would not show; looks that were repeated
        count together, and with them what the rider told of the same."""
        groups: dict[tuple[str, str], list[int]] = {}
        for i in self.now:
            item = self.evidence[i]
            # Looks of one scene and observable are one question asked several times, so their
            # answers add up.
            groups.setdefault((item.scene or test_id(item), item.observable), []).append(i)
        found: list[int] = []
        for members in groups.values():
            seen = {self.evidence[i].value for i in members}
            told = [i for i in self._told_of(members[0]) if self.evidence[i].value in seen]
            total = np.sum([self.plain[i] for i in (*members, *told)], axis=0)
            if self._found(self.evidence[members[0]], total):
                found += members
        return tuple(sorted(found))
