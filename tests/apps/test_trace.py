"""Trace over the web: what is told and found at arrival, readings in question or taken again,
looking ahead."""

import re
from dataclasses import replace

from django.urls import reverse

from brightcircuit.arrive.services import answer_triage, note_found
from brightcircuit.bikes.services import add_revision
from brightcircuit.bikes.translate import core_bike
from brightcircuit.engines.belief import job_trace
from brightcircuit.jobs.descriptions import use_newest_revision
from brightcircuit.jobs.models import Danger, Repair
from brightcircuit.jobs.repairs import confirmed_counts
from brightcircuit.jobs.safety import blocks
from brightcircuit.jobs.services import Symptoms, confirm_symptoms
from brightcircuit.shop.models import Meter
from brightcircuit.shop.services import add_meter
from brightcircuit.trace.models import Entry
from brightcircuit.wire.services import keep_wiring
from brightcore.circuit.instruments import meter_of
from brightcore.describing.edit import change_part
from brightcore.tracing.evidence import Evidence
from brightcore.tracing.hypotheses import enumerate_hypotheses, fault_class
from brightcore.tracing.tests import log_likelihood
from brightcore.tracing.wording import suggested
from tests.apps.base import ALL_NO, GATES, ShopTest, StationTest, prime
from tests.bikes import engine, small_engine

SUPPLY = "volts hall_cable.halls_c.v5 hall_cable.halls_c.gnd @ on"
QUESTIONED = (
    # kind, typed, state, whether it is kept in question
    ("volts", "64.0", "on", ""),
    ("volts", "66.5", "on", "more than this bike can show"),
    ("volts", "OL", "on", "OL in volts"),
    ("ohms", "OL", "out", ""),
    ("ohms", "-3", "out", "below zero"),
    ("diode", "0.52", "out", ""),
    ("diode", "12", "out", "0 to 3 V"),
)


class ReadingTest(StationTest):
    with_engine = True

    def setUp(self) -> None:
        super().setUp()
        self.safe()

    def test_a_tick_of_arrive_is_taken_away_there(self) -> None:
        note_found(actor=self.technician, job=self.job, circumstances=["rain"], wires=[])
        (entry,) = Entry.objects.filter(undone=False)
        self.post("trace-undo", self.job_uuid, entry=entry.pk, version=self.job.version)
        self.assertFalse(Entry.objects.get(pk=entry.pk).undone)
        note_found(actor=self.technician, job=self.job, circumstances=[], wires=[])
        self.assertTrue(Entry.objects.get(pk=entry.pk).undone)

    def test_a_reading_that_cannot_be_is_kept_and_not_used_until_confirmed(self) -> None:
        for kind, value, state, why in QUESTIONED:
            with self.subTest(value, kind=kind):
                Entry.objects.update(undone=True)
                Danger.objects.all().delete()
                item = Evidence(kind, value, state, "pack.main.plus", "pack.main.minus")
                self.add(item)
                (entry,) = Entry.objects.filter(undone=False)
                self.assertEqual((entry.value, why in entry.questioned), (value, True))
                self.assertEqual(bool(entry.questioned), bool(why))
                found = job_trace(self.job)
                assert found.trace is not None
                self.assertEqual(len(found.trace.evidence), 0 if why else 1)
        Danger.objects.all().delete()
        self.add(Evidence("volts", "999", "on", "pack.main.plus", "pack.main.minus"))
        page = self.client.get(reverse("trace", args=(self.job_uuid,)))
        self.assertContains(page, "Not used: 999 V is more than this bike can show")
        entry = Entry.objects.get(value="999")
        self.post("trace-confirm", self.job_uuid, entry=entry.pk, version=self.job.version)
        entry.refresh_from_db()
        self.assertEqual(entry.questioned, "")

    def test_what_was_found_on_a_line_is_no_longer_asked_once_it_is_described(self) -> None:
        whole = core_bike(self.revision)
        joins = tuple(j for j in whole.joins if j not in tuple(whole.joins_of("lamp")))
        bare = replace(whole, parts=tuple(p for p in whole.parts if p.id != "lamp"), joins=joins)
        for number, core in enumerate((bare, whole), start=1):
            add_revision(
                actor=self.technician, bike=self.revision.bike, core=core, base=number, what="x"
            )
            if core is bare:
                use_newest_revision(actor=self.technician, job=self.job)
        lines = [f"describe:controller:{role}" for role in ("accessory_plus", "brake_signal")]
        for line in lines:
            self.add(Evidence("ask", "yes", subject=line))
        use_newest_revision(actor=self.technician, job=self.job)
        left = Entry.objects.filter(undone=False, kind="ask").values_list("subject", flat=True)
        self.assertEqual(list(left), lines[1:])
        self.assertIn("Described now", "".join(self.job.log.values_list("text", flat=True)))

    def test_what_was_found_on_a_line_is_described_with_one_tap(self) -> None:
        whole = core_bike(self.revision)
        joins = tuple(j for j in whole.joins if j not in tuple(whole.joins_of("lamp")))
        bare = replace(whole, parts=tuple(p for p in whole.parts if p.id != "lamp"), joins=joins)
        add_revision(actor=self.technician, bike=self.revision.bike, core=bare, base=1, what="x")
        use_newest_revision(actor=self.technician, job=self.job)
        for role, kind, said, joined in (
            ("accessory_plus", "throttle", "Choose what was found on the line", False),
            ("x", "lamp", "Choose what was found on the line", False),
            ("accessory_plus", "lamp", "taken as at Controller, lamp", True),
            ("pedal_signal", "pedal_sensor", "spliced in at", True),
        ):
            line = f"describe:controller:{role}"
            self.add(Evidence("ask", "yes", subject=line))
            self.job.refresh_from_db()
            before = self.job.revision_id
            page = self.post(
                "trace-described", self.job_uuid, repair=line, kind=kind, version=self.job.version
            )
            with self.subTest(kind):
                self.assertContains(page, said)
                self.job.refresh_from_db()
                self.assertEqual(self.job.revision_id != before, joined)
                left = Entry.objects.filter(undone=False, kind="ask", subject=line).exists()
                self.assertEqual(left, not joined)

    def test_the_same_reading_again_asks_which_one_counts(self) -> None:
        sent = {"test": SUPPLY, "gate": GATES}
        self.post("trace-keep", self.job_uuid, value="4.9", version=self.job.version, **sent)
        for again, values in (("", ["4.9"]), ("both", ["4.9", "3.1"]), ("replace", ["4.9", "0.2"])):
            with self.subTest(again):
                value = values[-1] if again else "3.1"
                page = self.post(
                    "trace-keep",
                    self.job_uuid,
                    value=value,
                    version=self.job.version,
                    again=again,
                    **sent,
                )
                if not again:
                    self.assertContains(page, "Which one counts?", status_code=422)
                    self.assertContains(page, 'value="3.1"', status_code=422)
                standing = Entry.objects.filter(undone=False, red__startswith="hall_cable")
                self.assertEqual(
                    sorted(standing.values_list("value", flat=True)),
                    sorted(self._of(again, values)),
                )

    def _of(self, again: str, values: list[str]) -> list[str]:
        """Return what stands: the first of two that stood is replaced."""
        return ["3.1", "0.2"] if again == "replace" else values


class PastTest(ShopTest):
    with_engine = True

    def test_what_arrive_ticks_stands_as_evidence_and_is_undone_with_its_tick(self) -> None:
        before = self.belief()
        job = self.job
        note_found(
            actor=self.technician,
            job=job,
            circumstances=["rain"],
            wires=["green", "cut"],
            places={"green": "j-halls-m", "cut": "nowhere"},
        )
        rows = Entry.objects.filter(kind="past", undone=False).values_list("value", "subject")
        self.assertEqual(sorted(rows), [("cut", ""), ("green", "j-halls-m"), ("rain", "")])
        self.assertNotEqual(self.belief(), before)
        page = self.client.get(reverse("trace", args=(self.job_uuid,)))
        self.assertContains(page, "Green or white crust in a plug, at the Motor hall plug")
        note_found(actor=self.technician, job=job, circumstances=[], wires=[])
        self.assertEqual(Entry.objects.filter(kind="past", undone=False).count(), 0)
        self.assertEqual(self.belief(), before)

    def test_told_seen_and_when_are_kept_apart(self) -> None:
        symptoms = Symptoms({"rough": True}, ("error-hall",), "bars-left", ("smell",))
        confirm_symptoms(actor=self.technician, job=self.job, symptoms=symptoms)
        rows = Entry.objects.order_by("id").values_list(
            "kind", "value", "told", "sometimes", "state"
        )
        self.assertEqual(
            list(rows),
            [
                ("look", "rough", True, True, "bars-left"),
                ("look", "hall", False, False, ""),
                ("past", "smell", False, False, ""),
            ],
        )


class AheadTest(StationTest):
    with_engine = True

    def test_the_flow_sheet_has_cautions_before_acts_and_several_tests(self) -> None:
        page = self.client.get(reverse("trace-flow", args=(self.job_uuid,))).content.decode()
        self.assertGreaterEqual(page.count('class="flowact"'), 4)
        self.assertLess(page.index("Driven wheel off the ground"), page.index('class="flowact"'))

    def test_answers_by_telephone_count_as_told(self) -> None:
        address = reverse("trace-phone", args=(self.job_uuid,))
        page = self.client.get(address).content.decode()
        self.assertEqual(page.count("<legend>"), 5)
        empty = self.client.post(address, {"version": self.job.version})
        self.assertContains(empty, "Choose an answer", status_code=422)
        choices = re.findall(r'type="radio"\s+name="([^"]+)"\s+value="([^"]*)"', page)
        name, value = [choice for choice in choices if choice[0] == choices[0][0]][1]
        self.client.post(address, {name: value, "version": self.job.version})
        entry = Entry.objects.get()
        self.assertEqual(
            (f"{entry.scene}/{entry.observable}", entry.value, entry.told), (name, value, True)
        )

    def test_nothing_ahead_is_shown_while_a_pack_is_in_quarantine(self) -> None:
        answer_triage(actor=self.technician, job=self.job, answers=ALL_NO | {"hot": True})
        self._nothing_ahead()

    def test_nothing_ahead_is_shown_while_a_danger_of_the_wiring_stands(self) -> None:
        core = core_bike(self.job.revision)
        pack = core.of_kind("pack")[0]
        risky = change_part(core, pack.id, pack.name, replace(pack.spec, fuse_a=200.0))
        keep_wiring(actor=self.technician, job=self.job, core=risky, what="Another fuse")
        prime(self.job.revision, engine(self.bike))
        self.safe()
        self.assertEqual({block.kind for block in blocks(self.job)}, {"finding"})
        self._nothing_ahead()

    def _nothing_ahead(self) -> None:
        cases = (("trace-phone", "No tries are asked"), ("trace-flow", "Nothing to do is printed"))
        for name, words in cases:
            page = self.client.get(reverse(name, args=(self.job_uuid,))).content.decode()
            self.assertIn(words, page)
            self.assertNotIn("<legend>", page)
            self.assertNotIn('class="flowact"', page)


class CountTest(StationTest):
    def _prove(self, count: int) -> None:
        for n in range(count):
            Repair.objects.create(
                job=self.job,
                round=1,
                repair="join:x",
                action="Clean",
                fault_class="contact/open",
                proof=Repair.Proof.PASSED,
                probability=0.97 if n % 2 else None,
                at=self.job.opened,
                by=self.technician,
                by_name="tech",
            )

    def test_three_proved_cases_move_a_prior_two_do_not(self) -> None:
        circuit = small_engine("fern").circuit
        plain = enumerate_hypotheses(circuit).prior
        for count, moves in ((2, False), (3, True)):
            taught = enumerate_hypotheses(circuit, {"contact/open": count})
            own = [
                k
                for k, h in enumerate(taught.items)
                if h.mode and fault_class(h.mode) == "contact/open"
            ]
            self.assertEqual(float(taught.prior[own[0]]) > 1.1 * float(plain[own[0]]), moves, count)

    def test_only_a_lead_resets_what_cases_have_added(self) -> None:
        self._prove(4)
        address = reverse("trace-proposals", args=(self.job_uuid,))
        page = self.client.get(address)
        self.assertContains(page, "moves the ranking")
        sent = {"fault_class": "contact/open", "version": self.job.version}
        for who, left in ((self.technician, {"contact/open": 4}), (self.lead, {})):
            self.client.force_login(who)
            self.client.post(address, sent | {"version": self.job.version})
            self.assertEqual(confirmed_counts(), left)


METERS = (
    # name, figures, whether it is taken
    ("Bench meter", (10, 0.4, 1.5, 0.1, 0.4, 3.0), True),
    ("Old needle", (0.1, 10, 20, 5.0, 3.5, 1.5), True),
    ("Too light", (0.09, 0.4, 1.5, 0.1, 0.4, 3.0), False),
    ("Too rough", (10, 10.1, 1.5, 0.1, 0.4, 3.0), False),
    ("Long leads", (10, 0.4, 1.5, 5.1, 0.4, 3.0), False),
    ("Live ohms", (10, 0.4, 1.5, 0.1, 3.6, 3.0), False),
    ("Low diode", (10, 0.4, 1.5, 0.1, 0.4, 1.4), False),
    ("a|b", (10, 0.4, 1.5, 0.1, 0.4, 3.0), False),
)
FIELDS = ("input_mohm", "volts_percent", "ohms_percent", "lead_ohm", "ohms_v", "diode_v")


class MeterTest(StationTest):
    with_engine = True

    def test_a_meter_is_taken_with_figures_that_can_be(self) -> None:
        for title, figures, taken in METERS:
            with self.subTest(title):
                sent = {"title": title} | dict(zip(FIELDS, figures, strict=True))
                answer = self.client.post(reverse("meters"), sent)
                self.assertEqual(answer.status_code, 302 if taken else 422)
                self.assertEqual(Meter.objects.filter(title=title).exists(), taken)

    def test_a_reading_keeps_the_meter_that_it_was_taken_with(self) -> None:
        """A meter of 100 kΩ pulls a signal behind 10 kΩ down by a tenth: so it is foretold, and not
        odd."""
        self.safe()
        meter = add_meter(actor=self.technician, title="Needle", figures=METERS[1][1])
        sent = {"test": SUPPLY, "gate": GATES, "value": "4.9", "version": self.job.version}
        self.post("trace-keep", self.job_uuid, meter=meter.pk, **sent)
        entry = Entry.objects.get()
        self.assertEqual(entry.meter, meter.name)
        self.assertEqual(meter_of(entry.meter).volts.input_ohm, 1e5)
        pulled = Evidence("volts", "4.54", "on", "lever_left.plug.signal", "lever_left.plug.ground")
        table, h = engine("fern").table, engine("fern").hypotheses
        usual, needle = (
            float(log_likelihood(table, h, replace(pulled, meter=name))[0])
            for name in ("", meter.name)
        )
        self.assertGreater(needle, usual)
        page = self.client.get(reverse("trace", args=(self.job_uuid,)), {"test": SUPPLY})
        self.assertContains(page, "read with")


class WordingTest(StationTest):
    def test_the_riders_words_suggest_and_nothing_counts_before_it_is_confirmed(self) -> None:
        for text, names in (
            ("It shudders and the headlight is out", ("rough", "lamp-dark")),
            ("Cuts out on the hill", ("cuts",)),
            ("The shade of the horizon", ()),
            ("DEAD since Monday", ("dark",)),
        ):
            self.assertEqual(suggested(text), names, text)
        page = self.client.get(reverse("arrive-found", args=(self.job_uuid,)))
        self.assertContains(page, "The complaint may mean: Shudders or runs rough")
        self.assertEqual(Entry.objects.count(), 0)
