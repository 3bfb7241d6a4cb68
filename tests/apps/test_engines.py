"""Engines in the background: the cache on disk, a broken cache, a failing engine, many writers, and
what the Bench says."""

import tempfile
import threading
from pathlib import Path
from types import SimpleNamespace
from typing import cast
from unittest import TestCase
from unittest.mock import patch

import numpy as np
from django.conf import settings
from django.db import connection
from django.test import TransactionTestCase
from django.urls import reverse

from brightcircuit.arrive.services import answer_triage, lift_quarantine
from brightcircuit.bikes.services import import_bike
from brightcircuit.bikes.translate import core_bike
from brightcircuit.common.guard import Stale
from brightcircuit.engines import holders as engines
from brightcircuit.engines.belief import PAGE, job_trace
from brightcircuit.engines.warm import warm_engines
from brightcircuit.jobs.models import Job
from brightcircuit.jobs.repairs import do_repair, prove
from brightcircuit.stations.opening import open_job
from brightcircuit.stations.summary import next_thing, refresh_summary
from brightcircuit.trace.queries import acknowledged
from brightcircuit.trace.services import Blocked, add_evidence
from brightcircuit.wire.services import keep_wiring
from brightcore.bike.model import Bike
from brightcore.describing.edit import change_part
from brightcore.simulation import table
from brightcore.tracing.engine import Engine, Step
from brightcore.tracing.evidence import Evidence
from brightcore.tracing.trace import Trace
from tests.apps.base import ALL_NO, GATES, LIT, ShopTest, person, prime
from tests.apps.test_services import PLAN
from tests.bikes import DEMO, engine, generated_bike


class CacheTest(ShopTest):
    bike = "teasel"

    def setUp(self) -> None:
        super().setUp()
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name) / "predictions"
        changed = self.settings(PREDICTION_CACHE=self.folder, PREDICTION_CACHE_FILES=2)
        changed.enable()
        self.addCleanup(changed.disable)

    def prepare(self) -> engines.Holder:
        holder = engines.Holder(
            engines.worked_bike(self.revision), self.revision.sha256, self.revision.sha256, {}
        )
        with patch(
            "brightcircuit.engines.holders.close_old_connections"
        ):  # this thread's connection is the test's
            engines.prepare(holder)
        return holder

    def test_predictions_are_kept_on_disk_and_give_the_same_belief(self) -> None:
        first = self.prepare()
        files = list(self.folder.glob("*.npz"))
        self.assertEqual((len(files), first.percent, first.failure), (1, 100, ""))
        with patch.object(table, "solve", wraps=table.solve) as solve:
            again = self.prepare()
            solved = solve.call_count
        assert first.engine and again.engine
        self.assertLess(solved, 4)  # fuses, and the two states in which amps are read
        for test in first.engine.tests:
            one, two = first.engine.outcome(test.id), again.engine.outcome(test.id)
            self.assertEqual(one is None, two is None)
            if one is not None and two is not None:
                np.testing.assert_allclose(one.probability, two.probability, atol=1e-6)

    def test_an_engine_that_no_job_stands_on_is_given_up(self) -> None:
        """As after a change of the wiring: the job has moved to the next revision."""
        holder = engines.holder_for(engines.description_of(self.revision))
        core = change_part(
            core_bike(self.revision), "pack", "Renamed", core_bike(self.revision).part("pack").spec
        )
        keep_wiring(actor=self.technician, job=self.job, core=core, what="Renamed")
        with patch("brightcircuit.engines.holders.close_old_connections"):
            engines.prepare(holder)
        self.assertEqual(
            (holder.engine, holder.failure, holder.finished.is_set()), (None, "", True)
        )
        self.assertIsNot(engines.holder_for(engines.description_of(self.revision)), holder)

    def test_a_broken_cache_is_made_anew(self) -> None:
        path = engines._cache_path(self.revision.sha256)
        path.parent.mkdir(parents=True)
        path.write_bytes(b"not an archive")
        with self.assertLogs("brightcircuit.engines.holders", "WARNING"):
            holder = self.prepare()
        self.assertEqual(holder.failure, "")
        self.assertGreater(path.stat().st_size, 1000)

    def test_old_predictions_are_thrown_away(self) -> None:
        self.folder.mkdir()
        for k in range(5):
            (self.folder / f"old{k}.npz").write_bytes(b"x")
        self.prepare()
        self.assertEqual(len(list(self.folder.glob("*.npz"))), 2)

    def test_a_failing_engine_is_told_on_the_page(self) -> None:
        with (
            patch("brightcircuit.engines.holders.Engine", side_effect=ValueError("no luck")),
            self.assertLogs("brightcircuit.engines.holders", "ERROR"),
        ):
            holder = self.prepare()
        engines._holders[self.revision.sha256] = holder
        self.assertContains(
            self.client.get(reverse("trace", args=(self.job_uuid,))),
            "The engine stopped on this bike.",
        )
        self.assertContains(
            self.client.get(reverse("arrive", args=(self.job_uuid,))), "What was found"
        )

    def test_only_a_few_engines_stay_in_memory(self) -> None:
        for k in range(engines.MOST_ENGINES + 2):
            self.revision.sha256 = f"{k}"
            engines.holder_for(engines.description_of(self.revision))
        self.assertEqual(
            len(engines._holders), engines.MOST_ENGINES + 2
        )  # somebody waits for each of them
        for holder in engines._holders.values():
            holder.asked -= engines.LEAST_KEPT_S
        self.revision.sha256 = "newest"
        engines.holder_for(engines.description_of(self.revision))
        self.assertEqual(len(engines._holders), engines.MOST_ENGINES)
        self.assertIn("newest", engines._holders)
        engines.forget_engines()
        warm_engines()
        self.assertEqual(len(engines._holders), 1)


def waiting(key: str, size: int, asked: float, firsts: int, warm: bool = False) -> engines.Holder:
    """Return a holder of an engine of a size, asked for at a time, with steps left for its first
    proposal."""
    found = engines.Holder(cast(Bike, None), key, key, {}, asked=asked, warm=warm)
    found.engine = cast(Engine, SimpleNamespace(system_size=size, left_out=0))
    found.steps.extend([Step(1, lambda: None, True)] * firsts)
    found.steps.extend([Step(1, lambda: None, False)] * 3)
    if not firsts:
        found.first.set()
    return found


NOW = 1000.0
QUEUES = (
    # who is there: (key, size, asked for at, steps left for the first proposal, warm), who comes
    # first
    ((("small", 10, 999, 2, False), ("large", 900, 999, 2, False)), "small"),
    (
        (("whole table", 10, 999, 0, False), ("first proposal", 900, 999, 1, False)),
        "first proposal",
    ),
    (
        (("gone away", 10, NOW - engines.WAITS_S - 0.1, 1, False), ("large", 900, 999, 1, False)),
        "large",
    ),
    ((("warm", 10, 0, 1, True), ("asked", 900, NOW - engines.WAITS_S + 0.1, 0, False)), "asked"),
    ((("reads on", 10, NOW - engines.WAITS_S - 0.1, 0, False),), "reads on"),
    ((("warm", 10, 0, 1, True), ("long gone", 1, NOW - engines.WANTED_S - 0.1, 1, False)), "warm"),
    ((("long gone", 1, NOW - engines.WANTED_S - 0.1, 1, False),), None),
    ((), None),
)


class QueueTest(TestCase):
    def test_whoever_waits_comes_first_and_first_proposals_before_whole_tables(self) -> None:
        for there, first in QUEUES:
            with self.subTest(there=[row[0] for row in there]):
                engines.forget_engines()
                self.addCleanup(engines.forget_engines)
                for row in there:
                    engines._holders[row[0]] = waiting(*row)
                found = engines._next(NOW)
                self.assertEqual(found and found.key, first)

    def test_a_large_bike_is_worked_out_in_short_steps_and_not_wholly(self) -> None:
        made = Engine(generated_bike(3, 40))
        with patch("brightcore.tracing.engine.MOST_WORK", 20 * made.system_size):
            steps = list(made.work())
        self.assertGreater(made.left_out, 10)
        self.assertGreater(len([step for step in steps if step.first]), 8)
        self.assertTrue(made.ready)


class NobodyAskedTest(ShopTest):
    def test_summaries_start_nothing_and_pages_only_where_there_is_evidence(self) -> None:
        refresh_summary(self.job)
        job_trace(self.job, who=PAGE)
        self.assertEqual(len(engines._holders), 0)
        self.safe()
        self.add(LIT)
        engines.forget_engines()
        refresh_summary(self.job)
        self.assertEqual(len(engines._holders), 0)
        job_trace(self.job, who=PAGE)
        self.assertEqual([holder.asked for holder in engines._holders.values()], [0.0])
        job_trace(self.job)
        self.assertEqual(len(engines._holders), 1)
        self.assertGreater(next(iter(engines._holders.values())).asked, 0.0)


class NextThingTest(ShopTest):
    with_engine = True

    def next(self) -> str:
        job = self.job
        return next_thing(job, job_trace(job)).words

    def test_the_bench_says_the_next_thing_at_every_stage(self) -> None:
        self.assertEqual(self.next(), "Look at the pack")
        answer_triage(actor=self.technician, job=self.job, answers=ALL_NO | {"hot": True})
        self.assertEqual(self.next(), "Pack in quarantine: the shop lead decides")
        answer_triage(actor=self.technician, job=self.job, answers=ALL_NO)
        self.assertEqual(self.next(), "Pack in quarantine: the shop lead decides")
        lift_quarantine(actor=self.lead, job=self.job, reason="Cool, cells measured")
        self.assertIn(self.next(), {test.title for test in engine("fern").tests})
        do_repair(actor=self.technician, job=self.job, plan=PLAN)
        self.assertEqual(self.next(), "Prove: Run it")
        prove(actor=self.technician, job=self.job, passed=True, cause="Found and mended")
        self.assertEqual(self.next(), "Left brake lever stops the motor: not proven")
        self.prove_all(self.job)
        self.assertEqual(self.next(), "Close the job")
        self.let_go(self.job)
        self.assertEqual(self.next(), "Closed")
        refresh_summary(self.job)
        self.assertIn("<svg", self.job.summary["small"])

    def test_cautions_stand_until_the_bike_leaves_the_power_state(self) -> None:
        self.safe()
        self.add(LIT)
        self.assertEqual(acknowledged(self.job, "on"), {"pack_safe", "wheel_up"})
        self.assertEqual(acknowledged(self.job, "out"), set())
        pull = Evidence("look", "rough", scene="pull", observable="motor")
        self.add(pull)
        self.assertEqual(acknowledged(self.job, "on"), set())
        self.assertIn("road", acknowledged(self.job, "on, road"))
        with self.assertRaisesMessage(Blocked, "wheel off the ground"):
            self.add(LIT, ticked=("pack_safe",))
        ohms = Evidence("ohms", "0.3", "out", "pack.main.plus", "main_lead.pack_end.plus")
        self.add(ohms)
        self.assertEqual(
            (acknowledged(self.job, "on"), acknowledged(self.job, "out")),
            (set(), {"pack_out", "discharged"}),
        )


class ManyWritersTest(TransactionTestCase):
    available_apps = settings.INSTALLED_APPS

    def test_nothing_acknowledged_is_lost_when_several_write_at_once(self) -> None:
        actor = person("tech")
        revision = import_bike(actor=actor, text=(DEMO / "teasel.json").read_bytes()).revision
        job = open_job(actor=actor, revision=revision, complaint="x")
        answer_triage(actor=actor, job=job, answers=ALL_NO)
        prime(revision, engine("teasel"))
        self.addCleanup(engines.forget_engines)
        trace = Trace(engine("teasel"), [])
        kept: list[str] = []
        errors: list[BaseException] = []

        def write(k: int) -> None:
            try:
                for n in range(5):
                    item = Evidence(
                        "volts", f"{40 + k}.{n}", "on", "pack.main.plus", "pack.main.minus"
                    )
                    for _ in range(60):
                        fresh = Job.objects.get(pk=job.pk)
                        try:
                            add_evidence(
                                actor=actor,
                                job=fresh,
                                trace=trace,
                                items=[item],
                                ticked=GATES,
                                client=f"{k}-{n}",
                                version=fresh.version,
                                again="both",
                            )
                            kept.append(item.value)
                            break
                        except Stale:
                            continue
            except BaseException as error:
                errors.append(error)
            finally:
                connection.close()

        threads = [threading.Thread(target=write, args=(k,)) for k in range(4)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        self.assertEqual(errors, [])
        self.assertEqual(sorted(job.evidence.values_list("value", flat=True)), sorted(kept))
        self.assertEqual(len(kept), 20)
        self.assertEqual(job.log.filter(what="evidence").count(), 20)
