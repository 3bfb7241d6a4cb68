"""What one look at a page asks is asked once; an act asks anew every time."""

from collections import Counter
from dataclasses import replace

from django.db import connection
from django.test import RequestFactory
from django.test.utils import CaptureQueriesContext
from django.urls import reverse

from brightcircuit.common.looking import looking, once_a_look
from brightcircuit.engines.belief import job_trace
from brightcircuit.jobs.dangers import ReadDanger, note_dangers, standing_dangers
from brightcircuit.jobs.safety import blocks
from brightcore.tracing.terms import USUAL, Terms
from tests.apps.base import LIT, ShopTest
from tests.bikes import engine

ASKED = (
    # method, how often something is found out that is asked for three times
    ("GET", 1),
    ("HEAD", 1),
    ("POST", 3),
    (None, 3),
)

MOST_QUERIES = 40
"""Questions of the database that a Trace page may ask; it asked more than sixty."""


class LookingTest(ShopTest):
    with_engine = True

    def test_only_a_look_asks_once(self) -> None:
        for method, times in ASKED:
            with self.subTest(method=method):
                asked: list[int] = []

                def ask(asked: list[int] = asked) -> int:
                    asked.append(1)
                    return len(asked)

                def thrice() -> None:
                    for _ in range(3):
                        once_a_look("x", ask)

                if method is None:
                    thrice()
                else:
                    with looking(RequestFactory().generic(method, "/")):
                        thrice()
                self.assertEqual(len(asked), times)

    def test_an_act_sees_a_danger_that_was_read_while_it_was_under_way(self) -> None:
        self.safe()
        for method, seen in (("POST", 1), ("GET", 0)):
            with self.subTest(method=method), looking(RequestFactory().generic(method, "/")):
                before = len(blocks(self.job))
                note_dangers(
                    self.technician,
                    self.job,
                    "trace",
                    f"place {method}",
                    [ReadDanger("cell-high", "A cell stands at 4.4 V", "Stop.")],
                )
                self.assertEqual(len(blocks(self.job)) - before, seen)
        self.assertEqual(len(standing_dangers(self.job)), 2)

    def test_a_look_leaves_nothing_to_the_next(self) -> None:
        for _ in range(2):
            asked: list[int] = []
            with looking(RequestFactory().get("/")):
                once_a_look("x", lambda: asked.append(1))  # noqa: B023
            self.assertEqual(asked, [1])

    def test_the_trace_page_asks_each_thing_about_once(self) -> None:
        self.safe()
        self.add(LIT)
        url = reverse("trace", args=(self.job_uuid,))
        self.client.get(url)
        with CaptureQueriesContext(connection) as queries:
            self.assertEqual(self.client.get(url).status_code, 200)
        self.assertLess(len(queries), MOST_QUERIES)
        same = Counter(query["sql"] for query in queries.captured_queries)
        self.assertEqual([sql for sql, count in same.items() if count > 2], [])

    def test_a_belief_is_kept_for_the_same_evidence_terms_and_predictions(self) -> None:
        self.safe()
        holder = job_trace(self.job).holder
        first = holder.trace_of([LIT], USUAL)
        self.assertIs(holder.trace_of([LIT], Terms()), first)
        for words, other in (
            ("other evidence", holder.trace_of([LIT, LIT], USUAL)),
            ("other terms", holder.trace_of([LIT], replace(USUAL, rate=90.0))),
        ):
            self.assertIsNot(other, first, words)
        holder.engine.outcome(next(name for name in holder.engine.by_id if self.is_new(name)))
        self.assertIsNot(holder.trace_of([LIT], USUAL), first, "a test more is worked out")

    def is_new(self, name: str) -> bool:
        """Return whether nobody has worked a test out yet."""
        return name not in engine(self.bike)._tables
