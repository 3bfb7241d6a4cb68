"""What a shop has and knows: spares and donor of a job, pace of its tests, codes of its
displays."""

from django.core.exceptions import PermissionDenied, ValidationError
from django.urls import reverse

from brightcircuit.bikes.services import import_bike
from brightcircuit.engines.belief import job_trace
from brightcircuit.jobs.services import set_hand
from brightcircuit.shop.models import Pace
from brightcircuit.shop.services import set_paces
from brightcircuit.trace.codes import plain
from brightcircuit.trace.models import Entry, ErrorCode
from brightcore.describing.patterns import make_pattern
from brightcore.formats.bike_writing import bike_document, canonical_json
from brightcore.tracing.terms import SLOWEST, Terms
from tests.apps.base import GATES, StationTest
from tests.bikes import DEMO


class HandTest(StationTest):
    with_engine = True

    def _terms(self) -> Terms:
        found = job_trace(self.job).trace
        assert found is not None
        return found.terms

    def _lender(self, name: str) -> int:
        text = (
            (DEMO / f"{name}.json").read_bytes()
            if name == "otter"
            else canonical_json(bike_document(make_pattern(name, name))).encode()
        )
        return import_bike(actor=self.technician, text=text).revision.bike.pk

    def test_only_what_is_to_hand_is_swapped_in(self) -> None:
        self.assertEqual(self._terms().skip, frozenset())
        self.post("trace-hand", self.job_uuid, spares="display", version=self.job.version)
        self.assertEqual(self.job.spares, ["display"])
        skipped = self._terms().skip
        self.assertIn("swap controller", skipped)
        self.assertNotIn("swap display", skipped)
        self.assertEqual(self.job.log.last().text, "To hand: display")

    def test_a_donor_lends_what_fits_and_says_what_does_not(self) -> None:
        for name, halves, words in (
            ("hub-conversion", {"motor", "drive"}, "no rule speaks against it"),
            ("otter", set(), "Does not connect"),
        ):
            self.post(
                "trace-hand", self.job_uuid, donor=self._lender(name), version=self.job.version
            )
            self.assertEqual(self._terms().halves, halves, name)
            page = self.client.get(reverse("trace-hand", args=(self.job_uuid,)))
            self.assertContains(page, words)

    def test_a_bike_is_no_donor_of_itself(self) -> None:
        with self.assertRaisesMessage(ValidationError, "another bike"):
            set_hand(actor=self.technician, job=self.job, spares=[], donor=self.job.revision)


class PaceTest(StationTest):
    def test_only_a_lead_says_how_long_tests_take(self) -> None:
        with self.assertRaises(PermissionDenied):
            set_paces(actor=self.technician, paces={"ohms": (1.0, True)})
        for factor, taken in (
            (SLOWEST, True),
            (SLOWEST + 0.1, False),
            (1 / SLOWEST, True),
            (1 / SLOWEST - 0.01, False),
        ):
            Pace.objects.all().delete()
            try:
                set_paces(actor=self.lead, paces={"ohms": (factor, False)})
            except ValidationError as error:
                self.assertIn("ohms", error.message_dict)
            self.assertEqual(Pace.objects.filter(kind="ohms").exists(), taken, factor)

    def test_the_page_keeps_what_was_typed_and_names_the_field(self) -> None:
        self.client.force_login(self.lead)
        page = self.client.get(reverse("shop-tests"))
        self.assertContains(page, "a handheld meter")
        typed = {field: "1" for field in page.context["form"].fields if not field.endswith("-done")}
        answer = self.client.post(reverse("shop-tests"), typed | {"ohms": "77", "volts-done": "on"})
        self.assertContains(answer, 'value="77"', status_code=422)
        self.assertContains(answer, "times the usual minutes", status_code=422)
        self.client.post(reverse("shop-tests"), typed | {"ohms": "2", "volts-done": "on"})
        kept = {pace.kind: (pace.factor, pace.done_here) for pace in Pace.objects.all()}
        self.assertEqual((kept["ohms"], kept["volts"]), ((2.0, False), (1.0, True)))


class CodeTest(StationTest):
    with_engine = True

    def setUp(self) -> None:
        super().setUp()
        self.safe()

    def _type(self, **more: str) -> int:
        sent = {"test": "look throttle", "gate": list(GATES), "version": self.job.version} | more
        return int(self.client.post(reverse("trace-keep", args=(self.job_uuid,)), sent).status_code)

    def test_a_code_is_asked_about_once_and_known_from_then_on(self) -> None:
        self.assertEqual(self._type(**{"code-error": "e 08"}), 422)
        self.assertFalse(Entry.objects.exists())
        self.assertEqual(self._type(**{"code-error": "e 08", "see-error": "hall"}), 302)
        (kept,) = ErrorCode.objects.all()
        self.assertEqual((kept.code, kept.meaning), ("E8", "hall"))
        Entry.objects.update(undone=True)
        self.assertEqual(self._type(**{"code-error": "E08"}), 302)
        self.assertEqual(Entry.objects.get(undone=False).value, "hall")

    def test_the_table_of_codes_is_filled_and_emptied_by_hand(self) -> None:
        cases = (
            ("21", "throttle", 200),
            ("", "hall", 422),
            ("7", "none", 422),
            ("7", "nonsense", 422),
        )
        for code, meaning, status in cases:
            answer = self.post("trace-codes", self.job_uuid, code=code, meaning=meaning)
            self.assertEqual(answer.status_code, status, (code, meaning))
        self.assertContains(
            self.client.get(reverse("trace-codes", args=(self.job_uuid,))), "throttle error"
        )
        self.post("trace-codes", self.job_uuid, forget="21")
        self.assertFalse(ErrorCode.objects.exists())

    def test_codes_are_compared_as_people_write_them(self) -> None:
        for typed, kept in (
            (" e 07", "E7"),
            ("007", "7"),
            ("0", "0"),
            ("err10", "ERR10"),
            ("", ""),
        ):
            self.assertEqual(plain(typed), kept)
