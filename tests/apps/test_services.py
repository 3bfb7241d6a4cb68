"""Changes of state: who may, what stands before them, what the log says, what is never lost."""

from collections.abc import Callable
from dataclasses import replace
from datetime import timedelta
from typing import Any

from django.core.exceptions import PermissionDenied, ValidationError
from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse
from django.utils import timezone

from brightcircuit.arrive.services import answer_triage, lift_quarantine, note_found
from brightcircuit.bikes.services import add_revision, import_bike, set_contact
from brightcircuit.bikes.translate import core_bike
from brightcircuit.common.guard import Stale
from brightcircuit.jobs.descriptions import use_newest_revision
from brightcircuit.jobs.evidence import core_evidence, entry_fields
from brightcircuit.jobs.photos import add_photo
from brightcircuit.jobs.repairs import (
    RepairPlan,
    confirmed_counts,
    do_repair,
    prove,
    withdraw_repair,
)
from brightcircuit.jobs.safety import blocks, findings_of, waive_finding
from brightcircuit.jobs.services import Symptoms, confirm_symptoms
from brightcircuit.library.services import add_entry, add_generic, take_in
from brightcircuit.library.translate import shelf
from brightcircuit.match.services import add_variant, ask, drop_variant
from brightcircuit.record.services import close_job, reopen_job
from brightcircuit.shop.services import set_preferences
from brightcircuit.stations.files import export_job, import_job
from brightcircuit.stations.opening import open_job
from brightcircuit.stations.whats_open import whats_open
from brightcircuit.trace.models import Entry
from brightcircuit.trace.services import Blocked, skip_test, undo_evidence, unskip_tests
from brightcircuit.wire.services import (
    accept_proposals,
    fix_finding,
    keep_wiring,
    take_joins,
    tick,
    undo_wiring,
)
from brightcore.describing.edit import change_part
from brightcore.formats.bike_writing import canonical_json
from brightcore.formats.part_file import generic_entries
from brightcore.tracing.acts import act_of
from brightcore.tracing.evidence import Evidence
from brightcore.wiring.fixes import fixes_for
from tests.apps.base import ALL_NO, LIT, ShopTest, prime
from tests.bikes import DEMO, engine

PLAN = RepairPlan(
    "join:j-halls-m",
    "Clean the plug",
    "Water",
    "a/b",
    "contact/open",
    "Run it",
    "smooth",
    {"fault": "x", "engine": "1"},
)
DARK = Evidence("look", "dark", scene="switch_on", observable="display")
SWING = Evidence(
    "swing", "0.1 to 4.9", "on; motor.rotor=3", "controller.halls.a", "controller.halls.gnd"
)
OHMS = Evidence("ohms", "0.3", "out", "controller.halls.a", "hall_cable.halls_c.a")
PACK_V = Evidence("volts", "4.9", "on", "hall_cable.halls_m.v5", "hall_cable.halls_m.gnd")
FAR_V = Evidence("volts", "4.9", "on", "throttle.plug.supply", "throttle.plug.ground")
OHMS_AT_PACK = Evidence("ohms", "0.3", "out", "pack.main.plus", "main_lead.pack_end.plus")

CLOSED_REFUSES: tuple[tuple[str, Callable[[ShopTest], Any]], ...] = (
    ("triage", lambda t: answer_triage(actor=t.technician, job=t.job, answers=ALL_NO)),
    (
        "symptoms",
        lambda t: confirm_symptoms(
            actor=t.technician, job=t.job, symptoms=Symptoms({"rough": False})
        ),
    ),
    ("evidence", lambda t: t.add(LIT)),
    ("undo", lambda t: undo_evidence(actor=t.technician, job=t.job, entry_id=1, words="")),
    ("skip", lambda t: skip_test(actor=t.technician, job=t.job, test_id="x", words="x")),
    ("unskip", lambda t: unskip_tests(actor=t.technician, job=t.job)),
    ("repair", lambda t: do_repair(actor=t.technician, job=t.job, plan=PLAN)),
    ("withdraw", lambda t: withdraw_repair(actor=t.technician, job=t.job)),
    (
        "prove",
        lambda t: prove(actor=t.technician, job=t.job, passed=True, cause="Found and mended"),
    ),
    ("close again", lambda t: close_job(actor=t.technician, job=t.job, reason="x")),
    ("lift", lambda t: lift_quarantine(actor=t.lead, job=t.job, reason="x")),
    (
        "found",
        lambda t: note_found(actor=t.technician, job=t.job, circumstances=["rain"], wires=[]),
    ),
    ("revision", lambda t: use_newest_revision(actor=t.technician, job=t.job)),
    (
        "photo",
        lambda t: add_photo(
            actor=t.technician, job=t.job, upload=SimpleUploadedFile("x.jpg", b"x"), caption=""
        ),
    ),
    ("match", lambda t: ask(actor=t.technician, job=t.job, values={"rider_w": 1.0})),
    ("variant", lambda t: add_variant(actor=t.technician, job=t.job, variant={"name": "x"})),
    ("drop", lambda t: drop_variant(actor=t.technician, job=t.job, index=0)),
    (
        "wiring",
        lambda t: keep_wiring(
            actor=t.technician, job=t.job, core=core_bike(t.job.revision), what="x"
        ),
    ),
    ("tick", lambda t: tick(actor=t.technician, job=t.job, step_id="pack-out", done=True)),
    ("joins file", lambda t: take_joins(actor=t.technician, job=t.job, text=b"from,to,wire\n")),
    ("fix", lambda t: fix_finding(actor=t.technician, job=t.job, key="x", remedy="x")),
    ("undo wiring", lambda t: undo_wiring(actor=t.technician, job=t.job)),
    ("proposals", lambda t: accept_proposals(actor=t.technician, job=t.job, wanted=[])),
)
INACTIVE_REFUSED: tuple[tuple[str, Callable[[ShopTest], Any]], ...] = (
    *CLOSED_REFUSES,
    ("open", lambda t: open_job(actor=t.technician, revision=t.revision, complaint="x")),
    (
        "import a bike",
        lambda t: import_bike(actor=t.technician, text=(DEMO / "teasel.json").read_bytes()),
    ),
    ("reopen", lambda t: reopen_job(actor=t.technician, job=t.job)),
    (
        "contact",
        lambda t: set_contact(
            actor=t.technician, bike=t.revision.bike, name="N", reach="", note=""
        ),
    ),
    (
        "describe",
        lambda t: add_revision(
            actor=t.technician, bike=t.revision.bike, core=core_bike(t.revision), base=1, what="x"
        ),
    ),
    ("library", lambda t: add_entry(actor=t.technician, entry=generic_entries()[0])),
    ("take in parts", lambda t: take_in(actor=t.technician, entries=generic_entries()[:1])),
    ("import a job", lambda t: import_job(actor=t.technician, text=b"{}")),
    ("preferences", lambda t: set_preferences(actor=t.technician, values={"theme": "dark"})),
)


class PermissionTest(ShopTest):
    def test_a_closed_job_takes_nothing(self) -> None:
        self.let_go(self.job)
        before = self.job.log.count()
        for name, call in CLOSED_REFUSES:
            with self.subTest(name), self.assertRaises(PermissionDenied):
                call(self)
        self.assertEqual(self.job.log.count(), before)

    def test_a_person_who_has_left_changes_nothing(self) -> None:
        self.technician.is_active = self.lead.is_active = False
        for name, call in INACTIVE_REFUSED:
            with self.subTest(name), self.assertRaises(PermissionDenied):
                call(self)

    def test_only_a_lead_lifts_a_quarantine_and_only_with_a_reason(self) -> None:
        answer_triage(actor=self.technician, job=self.job, answers=ALL_NO | {"swollen": True})
        with self.assertRaises(PermissionDenied):
            lift_quarantine(actor=self.technician, job=self.job, reason="looks fine")
        with self.assertRaises(ValidationError):
            lift_quarantine(actor=self.lead, job=self.job, reason="  ")
        with self.assertRaises(Blocked):
            self.add(LIT)
        answer_triage(actor=self.technician, job=self.job, answers=ALL_NO)
        with self.assertRaisesMessage(Blocked, "quarantine"):
            self.add(LIT)
        lift_quarantine(actor=self.lead, job=self.job, reason="Cells measured, another pack fitted")
        self.assertTrue(self.add(LIT))
        answer_triage(actor=self.technician, job=self.job, answers={"wet": True})
        with self.assertRaises(Blocked):
            self.add(DARK)

    def test_a_quarantine_follows_the_pack_to_other_jobs_and_by_its_mark_to_other_bikes(
        self,
    ) -> None:
        other_bike = import_bike(actor=self.lead, text=(DEMO / "teasel.json").read_bytes()).revision
        marked = {}
        for name, revision, mark in (
            ("here", self.revision, "B-17"),
            ("there", other_bike, " b-17 "),
        ):
            core = core_bike(revision)
            pack = next(part for part in core.parts if part.kind == "pack")
            made = change_part(core, pack.id, pack.name, replace(pack.spec, mark=mark))
            marked[name] = add_revision(
                actor=self.lead, bike=revision.bike, core=made, base=revision.number, what="m"
            )
        jobs = {
            name: open_job(actor=self.technician, revision=revision, complaint="x")
            for name, revision in (*marked.items(), ("unmarked", self.revision))
        }
        answer_triage(actor=self.technician, job=jobs["here"], answers=ALL_NO | {"hot": True})
        for name in ("there", "unmarked"):
            answer_triage(actor=self.technician, job=jobs[name], answers=ALL_NO)
        for name, job in jobs.items():
            self.assertEqual([block.kind for block in blocks(job)][:1], ["quarantine"], name)
        lift_quarantine(actor=self.lead, job=jobs["there"], reason="Cells measured")
        self.assertEqual([blocks(job) for job in jobs.values()], [[], [], []])

    def test_a_mark_that_is_written_down_during_a_quarantine_counts_from_then_on(self) -> None:
        other = import_bike(actor=self.lead, text=(DEMO / "teasel.json").read_bytes()).revision
        answer_triage(actor=self.technician, job=self.job, answers=ALL_NO | {"hot": True})
        for revision, held in ((self.revision, False), (other, True)):
            core = core_bike(revision)
            pack = next(part for part in core.parts if part.kind == "pack")
            made = change_part(core, pack.id, pack.name, replace(pack.spec, mark="B-18"))
            given = {"bike": revision.bike, "core": made, "base": revision.number, "what": "Marked"}
            other_job = open_job(actor=self.technician, revision=other, complaint="x")
            add_revision(actor=self.lead, **given)
            answer_triage(actor=self.technician, job=other_job, answers=ALL_NO)
            kinds = [block.kind for block in blocks(other_job)]
            self.assertEqual(kinds[:1] == ["quarantine"], held, revision)

    def test_a_file_brings_history_and_neither_lifts_nor_accepts_anything(self) -> None:
        answer_triage(actor=self.technician, job=self.job, answers=ALL_NO | {"smell": True})
        lift_quarantine(actor=self.lead, job=self.job, reason="Aired, cells measured")
        found = export_job(self.job)
        found["job"] |= {"complaint": "In another shop", "waivers": []}
        copy, _ = import_job(actor=self.technician, text=canonical_json(found))
        self.assertEqual([block.kind for block in blocks(copy)], ["quarantine"])
        self.assertEqual(copy.arrival.lifted_reason, "Aired, cells measured")
        self.assertTrue(all(line.imported for line in copy.log.exclude(what="imported")))
        lift_quarantine(actor=self.lead, job=copy, reason="Looked at here")
        self.assertEqual([block.kind for block in blocks(copy)], ["triage"])
        answer_triage(actor=self.technician, job=copy, answers=ALL_NO)
        self.assertEqual(blocks(copy), [])

    def test_repair_at_the_pack_proof_and_closing_ask_for_the_quarantine(self) -> None:
        answer_triage(actor=self.technician, job=self.job, answers=ALL_NO | {"wet": True})
        for repair, refused in (
            ("part:pack:fuse", True),
            ("join:j-pack", True),
            ("join:j-halls-m", False),
        ):
            with self.subTest(repair):
                plan = replace(PLAN, repair=repair)
                if refused:
                    with self.assertRaisesMessage(ValidationError, "quarantine"):
                        do_repair(actor=self.technician, job=self.job, plan=plan)
                else:
                    do_repair(actor=self.technician, job=self.job, plan=plan)
        with self.assertRaisesMessage(ValidationError, "quarantine"):
            prove(actor=self.technician, job=self.job, passed=True, cause="Found and mended")
        with self.assertRaisesMessage(ValidationError, "quarantine"):
            close_job(actor=self.technician, job=self.job, reason="Rider wants it back")
        page = self.client.get(reverse("record", args=(self.job_uuid,)))
        self.assertContains(page, "The pack is in quarantine")
        reasons = {item.key: "Pack kept here, bike goes without" for item in whats_open(self.job)}
        del reasons["quarantine"]
        with self.assertRaisesMessage(
            ValidationError, "Say why this is let go: The pack is in quarantine"
        ):
            close_job(actor=self.lead, job=self.job, reasons=reasons)
        self.let_go(self.job)
        self.assertIn(
            "Let go, The pack is in quarantine: for this test",
            self.job.log.values_list("text", flat=True),
        )
        self.assertEqual(self.job.log.last().text, "Closed without proof: for this test")

    def test_unpowered_tests_away_from_the_pack_go_on_in_quarantine(self) -> None:
        answer_triage(actor=self.technician, job=self.job, answers=ALL_NO | {"wet": True})
        self.assertTrue(self.add(OHMS))
        for stands_before in (OHMS_AT_PACK, SWING, LIT):
            with self.assertRaises(Blocked):
                self.add(stands_before)


class DangerTest(ShopTest):
    bike = "otter"

    def test_the_fix_of_a_danger_finding_is_taken_only_once_it_is_done_on_the_bike(self) -> None:
        core = core_bike(self.revision)
        display = next(part for part in core.parts if part.kind == "display")
        weak = change_part(core, display.id, display.name, replace(display.spec, max_v=40.0))
        keep_wiring(actor=self.technician, job=self.job, core=weak, what="Another display")
        add_generic()
        finding = next(f.finding for f in findings_of(self.job) if f.finding.code == "W010")
        fix = fixes_for(core_bike(self.job.revision), finding, shelf())[0]
        given = {
            "actor": self.technician,
            "job": self.job,
            "key": finding.key,
            "remedy": fix.remedy,
        }
        with self.assertRaisesMessage(ValidationError, "danger finding"):
            fix_finding(**given)
        fix_finding(**given, done=True)
        self.assertNotIn("W010", {f.finding.code for f in findings_of(self.job)})

    def test_a_danger_finding_stands_before_powered_tests_until_a_lead_accepts_it(self) -> None:
        core = core_bike(self.revision)
        pack = core.of_kind("pack")[0]
        risky = change_part(core, pack.id, pack.name, replace(pack.spec, fuse_a=100.0))
        keep_wiring(actor=self.technician, job=self.job, core=risky, what="Another fuse")
        prime(self.job.revision, engine(self.bike))
        self.safe()
        key = next(f.finding.key for f in findings_of(self.job) if f.finding.severity == "danger")
        with self.assertRaises(Blocked):
            self.add(LIT)
        for actor, reason, error in (
            (self.technician, "fine", PermissionDenied),
            (self.lead, "", ValidationError),
        ):
            with self.assertRaises(error):
                waive_finding(actor=actor, job=self.job, key=key, reason=reason)
        with self.assertRaises(ValidationError):
            waive_finding(actor=self.lead, job=self.job, key="W999|nothing", reason="x")
        waive_finding(
            actor=self.lead, job=self.job, key=key, reason="Fuse is on order, limit set to 15 A"
        )
        self.assertTrue(self.add(LIT))
        found = export_job(self.job)
        found["job"]["complaint"] = "In another shop"
        copy, _ = import_job(actor=self.technician, text=canonical_json(found))
        # What was answered about the pack in another shop is history here.
        self.assertEqual([block.kind for block in blocks(copy)], ["triage", "finding"])
        answer_triage(actor=self.technician, job=copy, answers=ALL_NO)
        self.assertEqual([block.kind for block in blocks(copy)], ["finding"])
        shown = next(f for f in findings_of(copy) if f.finding.key == key)
        self.assertIn("Fuse is on order", shown.elsewhere)
        waive_finding(actor=self.lead, job=copy, key=key, reason="Looked at here")
        self.assertEqual(blocks(copy), [])


class EvidenceTest(ShopTest):
    with_engine = True

    def test_nothing_powered_is_stored_before_the_pack_was_looked_at(self) -> None:
        with self.assertRaises(Blocked):
            self.add(LIT)
        self.assertEqual(Entry.objects.count(), 0)

    def test_a_caution_must_be_ticked_and_is_logged_once_per_power_state(self) -> None:
        self.safe()
        with self.assertRaises(Blocked):
            self.add(LIT, ticked=())
        self.add(LIT)
        self.add(DARK, ticked=())
        with self.assertRaises(Blocked):
            self.add(OHMS, ticked=("pack_out",))
        self.add(OHMS)
        with self.assertRaises(Blocked):
            self.add(LIT, ticked=())
        logged = self.job.log.filter(what="caution").count()
        self.assertEqual(
            logged, len(act_of(engine("fern"), [LIT]).gates) + len(("pack_out", "discharged"))
        )

    def test_the_same_form_sent_twice_counts_once_and_a_stale_one_is_refused(self) -> None:
        self.safe()
        version = self.job.version
        self.assertTrue(self.add(LIT, client="c1"))
        self.assertFalse(self.add(LIT, client="c1", version=version))
        with self.assertRaises(Stale):
            self.add(DARK, client="c2", version=version)
        self.assertEqual(Entry.objects.count(), 1)

    def test_undo_restores_the_belief_exactly_and_keeps_the_record(self) -> None:
        self.safe()
        before = self.belief()
        self.add(LIT)
        self.assertNotEqual(self.belief(), before)
        undo_evidence(
            actor=self.technician, job=self.job, entry_id=Entry.objects.get().pk, words="lit"
        )
        self.assertEqual(self.belief(), before)
        self.assertTrue(Entry.objects.get().undone)
        with self.assertRaises(ValidationError):
            undo_evidence(
                actor=self.technician, job=self.job, entry_id=Entry.objects.get().pk, words="lit"
            )

    def test_left_out_tests_are_not_proposed_until_all_are_offered_again(self) -> None:
        skip_test(actor=self.technician, job=self.job, test_id="look switch_on", words="Look")
        self.assertEqual(self.job.skipped_tests, ["look switch_on"])
        unskip_tests(actor=self.technician, job=self.job)
        self.assertEqual(self.job.skipped_tests, [])

    def test_evidence_goes_into_rows_and_comes_back_the_same(self) -> None:
        for item in (
            LIT,
            SWING,
            Evidence("swap", "gone", subject="display"),
            Evidence("look", "rough", "", "", "", "throttle", "motor", "", True),
        ):
            row = Entry(job=self.job, **entry_fields(item))
            self.assertEqual(core_evidence(row), item)


class RoundTest(ShopTest):
    with_engine = True

    def test_a_failed_proof_is_evidence_and_what_was_told_stays(self) -> None:
        self.safe()
        confirm_symptoms(actor=self.technician, job=self.job, symptoms=Symptoms({"dark": False}))
        self.add(DARK)
        self.add(PACK_V)
        self.add(FAR_V)
        do_repair(actor=self.technician, job=self.job, plan=PLAN)
        with self.assertRaises(ValidationError):
            do_repair(actor=self.technician, job=self.job, plan=PLAN)
        prove(actor=self.technician, job=self.job, passed=False)
        self.assertEqual(self.job.round, 2)
        now = [(e.kind, e.told) for e in Entry.objects.filter(round=2)]
        self.assertEqual(now, [("look", True), ("volts", False), ("tried", False)])
        self.assertEqual(Entry.objects.get(round=2, kind="volts").red, FAR_V.red)
        with self.assertRaises(ValidationError):
            prove(actor=self.technician, job=self.job, passed=True, cause="Found and mended")

    def test_what_somebody_else_has_changed_is_shown_and_never_overwritten(self) -> None:
        based_on = self.job.version
        answer_triage(
            actor=self.technician, job=self.job, answers={}, note="Plug green", note_was=""
        )
        for note, was, stored in (
            ("Plug wet", "", "Plug green"),
            ("Plug green", "", "Plug green"),
            ("Plug green and wet", "Plug green", "Plug green and wet"),
        ):
            with self.subTest(note):
                if stored != note:
                    with self.assertRaises(Stale):
                        answer_triage(
                            actor=self.lead, job=self.job, answers={}, note=note, note_was=was
                        )
                else:
                    answer_triage(
                        actor=self.lead, job=self.job, answers={}, note=note, note_was=was
                    )
                self.assertEqual(self.job.arrival.note, stored)
        job = self.job
        job.based_on = based_on
        with self.assertRaises(Stale):
            close_job(actor=self.lead, job=job, reason="Done")
        self.assertTrue(self.job.is_open)
        self.let_go(self.job)
        job = self.job
        job.based_on = based_on
        with self.assertRaises(Stale):
            reopen_job(actor=self.lead, job=job)
        self.assertFalse(self.job.is_open)

    def test_the_log_keeps_its_order_although_the_clock_goes_back(self) -> None:
        self.safe()
        self.job.log.update(at=timezone.now() + timedelta(days=1))
        skip_test(actor=self.technician, job=self.job, test_id="x", words="x")
        self.assertEqual(self.job.log.last().what, "skipped")

    def test_a_job_closed_meanwhile_takes_nothing_although_the_caller_has_it_open(self) -> None:
        old = self.job
        self.let_go(self.job)
        with self.assertRaises(PermissionDenied):
            skip_test(actor=self.technician, job=old, test_id="x", words="x")

    def test_closing_without_proof_needs_a_reason_and_a_proof_counts_for_the_shop(self) -> None:
        self.safe()
        with self.assertRaises(ValidationError):
            close_job(actor=self.technician, job=self.job, reason=" ")
        do_repair(actor=self.technician, job=self.job, plan=PLAN)
        withdraw_repair(actor=self.technician, job=self.job)
        with self.assertRaises(ValidationError):
            withdraw_repair(actor=self.technician, job=self.job)
        do_repair(actor=self.technician, job=self.job, plan=PLAN)
        prove(actor=self.technician, job=self.job, passed=True, cause="Found and mended")
        with self.assertRaisesMessage(ValidationError, "not proven"):
            close_job(actor=self.technician, job=self.job, reason="")
        self.prove_all(self.job)
        close_job(actor=self.technician, job=self.job, reason="")
        self.assertEqual(confirmed_counts(), {"contact/open": 1})
        found = export_job(self.job)
        found["job"]["complaint"] = "The same in another shop"
        import_job(actor=self.technician, text=canonical_json(found))
        self.assertEqual(confirmed_counts(), {"contact/open": 1})
        with self.assertRaises(PermissionDenied):
            self.add(LIT)
        reopen_job(actor=self.technician, job=self.job)
        self.assertEqual((self.job.status, self.job.round), ("open", 2))
        with self.assertRaises(ValidationError):
            reopen_job(actor=self.technician, job=self.job)

    def test_every_change_writes_the_log_with_who(self) -> None:
        answer_triage(actor=self.technician, job=self.job, answers=ALL_NO, note="Green pins")
        confirm_symptoms(actor=self.technician, job=self.job, symptoms=Symptoms({"rough": True}))
        self.add(LIT)
        do_repair(actor=self.technician, job=self.job, plan=PLAN)
        prove(actor=self.technician, job=self.job, passed=True, cause="Found and mended")
        self.prove_all(self.job)
        close_job(actor=self.lead, job=self.job, reason="")
        found = set(self.job.log.values_list("what", flat=True))
        self.assertEqual(
            found,
            {
                *("opened", "triage", "arrival", "symptom", "caution", "evidence"),
                *("repair", "proof", "prove", "closed"),
            },
        )
        self.assertEqual(set(self.job.log.values_list("by", flat=True)), {"tech", "boss"})
