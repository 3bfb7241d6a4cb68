"""A danger that was read stops powered acts on every station until it is read well or let go."""

from collections.abc import Callable, Sequence
from typing import Any

from django.core.exceptions import PermissionDenied, ValidationError
from django.urls import reverse

from brightcircuit.arrive.models import Arrival
from brightcircuit.arrive.services import answer_triage
from brightcircuit.engines.belief import job_trace
from brightcircuit.jobs.dangers import ReadDanger, let_danger_go, note_dangers, standing_dangers
from brightcircuit.jobs.hazards import hazards_standing, limit_gates
from brightcircuit.jobs.models import Danger, Job
from brightcircuit.jobs.safety import blocks, require_pack_safe, require_safe
from brightcircuit.jobs.services import Planned, plan_job
from brightcircuit.jobs.way import stands_of
from brightcircuit.program.run_services import write_gates
from brightcircuit.prove.queries import rows_of
from brightcircuit.prove.services import enter
from brightcircuit.record.facts import rider_facts
from brightcircuit.record.services import close_job
from brightcircuit.set.services import begin_again, take_reading
from brightcircuit.stations.files import export_job, import_job
from brightcircuit.stations.summary import stored_next
from brightcircuit.stations.whats_open import whats_open
from brightcircuit.trace.services import Blocked
from brightcircuit.wire.services import tick
from brightcore.formats.bike_writing import canonical_json
from brightcore.tracing.advice import propose
from brightcore.tracing.evidence import Evidence
from brightcore.tracing.hazard import dead_checks
from brightcore.tracing.tests import Test, kind_of
from tests.apps.base import ALL_NO, GATES, ShopTest

THROTTLE = (("supply", "supply_v", "5.0"), ("rest", "rest_v", "0.85"), ("full", "full_v", "4.1"))
GROUPS = " ".join(["3.80"] * 12)

IN_SET = (
    # instrument, part, step, field, value, code of the danger ("" none)
    ("throttle", "throttle", "supply", "supply_v", "5.5", ""),
    ("throttle", "throttle", "supply", "supply_v", "5.6", "S141"),
    ("throttle", "throttle", "supply", "supply_v", "53.9", "S141"),
    ("throttle", "throttle", "rest", "rest_v", "1.04", ""),
    ("throttle", "throttle", "rest", "rest_v", "-0.6", "S140"),
    ("groups", "pack", "groups", "groups", f"{GROUPS} 2.5", "S079"),
    ("groups", "pack", "groups", "groups", f"{GROUPS} -0.4", "S071"),
    ("groups", "pack", "groups", "groups", f"{GROUPS} 4.75", "S072"),
    ("groups", "pack", "groups", "groups", f"{GROUPS} 3.4", ""),
)

SIGNAL, GROUND = "throttle.plug.signal", "throttle.plug.ground"
BRAKE, BRAKE_GROUND = "lever_left.plug.signal", "lever_left.plug.ground"
PLUS, MINUS = "controller.battery.plus", "controller.battery.minus"

IN_TRACE = (
    # red, black, value, code of the danger ("" none)
    (SIGNAL, GROUND, "5.5", ""),
    (SIGNAL, GROUND, "5.6", "too-high"),
    (BRAKE, BRAKE_GROUND, "48", "too-high"),
    (BRAKE, BRAKE_GROUND, "-0.6", "reversed"),
    (PLUS, MINUS, "54.9", ""),
    (PLUS, MINUS, "55.0", "pack-high"),
    (PLUS, MINUS, "84", "pack-high"),
    (PLUS, MINUS, "-50", "reversed"),
    (PLUS, SIGNAL, "50", ""),
)


class DangerTest(ShopTest):
    """Fern's job, its pack looked at."""

    with_engine = True

    def setUp(self) -> None:
        super().setUp()
        self.safe()

    def read(self, key: str, part: str, step: str, **typed: str) -> None:
        """Take one reading of Set, with all cautions."""
        where: dict[str, Any] = {
            "actor": self.technician,
            "job": self.job,
            "key": key,
            "subject": part,
        }
        take_reading(**where, step_id=step, typed=typed, ticked=GATES)

    def codes(self) -> list[str]:
        return [row.code for row in standing_dangers(self.job)]

    def fails(self, act: Callable[[], object]) -> None:
        with self.assertRaisesMessage((ValidationError, Blocked), "12.4 V"):
            act()

    def test_a_danger_of_set_is_kept_at_its_band(self) -> None:
        for key, part, step, field, value, code in IN_SET:
            with self.subTest(key, value=value):
                Danger.objects.all().delete()
                self.job.sheets.all().delete()
                self.read(key, part, step, **{field: value})
                self.assertEqual(self.codes(), [code] if code else [])
                self.assertEqual(self.job.sheets.get().typed[field], value)

    def test_a_danger_of_trace_is_kept_at_its_band(self) -> None:
        for red, black, value, code in IN_TRACE:
            with self.subTest(red, value=value):
                Danger.objects.all().delete()
                self.job.evidence.all().delete()
                self.add(Evidence("volts", value, "on", red, black))
                self.assertEqual(self.codes(), [code] if code else [])
                self.assertEqual(self.job.evidence.get().value, value)

    def test_it_stops_powered_acts_on_every_station(self) -> None:
        self.read("throttle", "throttle", "supply", supply_v="12.4")
        plan_job(actor=self.technician, job=self.job, planned=Planned(("check-over",)))
        job = self.job
        build = self.open(purposes=["build"])
        answer_triage(actor=self.technician, job=build, answers=ALL_NO)
        stopped = (
            lambda: require_safe(job),
            lambda: require_pack_safe(job),
            lambda: self.read("cut-off", "lever_left", "rest", rest="off"),
            lambda: self.add(Evidence("volts", "0.85", "on", SIGNAL, GROUND)),
            lambda: self.add(Evidence("look", "lit", scene="switch_on", observable="display")),
            lambda: enter(
                actor=self.technician,
                job=job,
                check_id="minute",
                text="",
                answer="yes",
                ticked=GATES,
            ),
            lambda: tick(actor=self.technician, job=build, step_id="power-up", done=True),
        )
        for act in stopped:
            self.fails(act)
        self.add(Evidence("ohms", "0.2", "out", "lever_left.plug.signal", "lever_left.plug.ground"))
        for station in ("set", "trace", "wire", "prove", "program", "match", "arrive"):
            page = self.client.get(reverse(station, args=(self.job_uuid,)))
            self.assertContains(page, "12.4 V", msg_prefix=station)

    def test_pages_hold_the_act_back_where_the_service_would(self) -> None:
        self.read("throttle", "throttle", "supply", supply_v="12.4")
        powered = reverse("set-instrument", args=(self.job_uuid, "cut-off", "lever_left"))
        plan_job(actor=self.technician, job=self.job, planned=Planned(("check-over",)))
        proof = reverse("prove", args=(self.job_uuid,)) + "?check=minute"
        for page in (powered, proof):
            self.assertContains(
                self.client.get(page), "Held back: first see to the notice above.", msg_prefix=page
            )
        Danger.objects.all().delete()
        for page in (powered, proof):
            self.assertNotContains(self.client.get(page), "Held back")

    def test_only_a_good_sheet_at_the_same_place_ends_it(self) -> None:
        self.read("throttle", "throttle", "supply", supply_v="12.4")
        begin_again(actor=self.technician, job=self.job, key="throttle", subject="throttle")
        self.assertEqual(self.codes(), ["S141"])
        for step, field, value in THROTTLE:
            self.assertEqual(self.codes(), ["S141"])
            self.read("throttle", "throttle", step, **{field: value})
        self.assertEqual(self.codes(), [])
        self.assertEqual(Danger.objects.get().how, Danger.How.READ_WELL)
        require_safe(self.job)

    def test_two_dangers_are_read_well_one_by_one(self) -> None:
        """Neither keeps the other from being read again; one of the pack keeps powered readings
        back."""
        self.add(Evidence("volts", "48", "on", BRAKE, BRAKE_GROUND))
        with self.assertRaises(ValidationError):
            self.read("throttle", "throttle", "supply", supply_v="12.4")
        self.job.evidence.update(undone=True)
        self.add(Evidence("volts", "5.0", "on", BRAKE, BRAKE_GROUND))
        self.read("throttle", "throttle", "supply", supply_v="12.4")
        note_dangers(
            self.technician,
            self.job,
            "trace",
            "trace:x",
            [ReadDanger("too-high", "Brake wire", "Off")],
        )
        for step, field, value in THROTTLE:
            self.read("throttle", "throttle", step, **{field: value})
        self.assertEqual(self.codes(), ["too-high"])

    def test_readings_of_set_ask_what_each_touches(self) -> None:
        """A powered one, one at the pack, one with the pack out, one that touches neither."""
        tried: tuple[tuple[str, str, str, dict[str, str]], ...] = (
            ("throttle", "throttle", "supply", {"supply_v": "5.0"}),
            ("groups", "pack", "groups", {"groups": f"{GROUPS} 3.80"}),
            ("temperature", "motor", "cold", {"cold_c": "20", "cold_ohm": "12000"}),
            ("motor", "motor", "magnets", {"magnets": "46"}),
        )
        danger = ReadDanger("too-high", "Brake wire", "Off")
        for stands, refused in (
            ("", ()),
            ("danger", ("throttle", "groups")),
            ("unanswered", ("throttle", "groups", "temperature")),
        ):
            if stands == "danger":
                note_dangers(self.technician, self.job, "trace", "trace:x", [danger])
            elif stands:
                Arrival.objects.update(triage={})
            for key, part, step, typed in tried:
                with self.subTest(key, stands=stands):
                    if key in refused:
                        with self.assertRaises(ValidationError):
                            self.read(key, part, step, **typed)
                    else:
                        self.read(key, part, step, **typed)

    def test_a_danger_of_the_pack_keeps_powered_readings_back(self) -> None:
        self.read("throttle", "throttle", "supply", supply_v="12.4")
        note_dangers(
            self.technician,
            self.job,
            "set",
            "set:groups:pack",
            [ReadDanger("S071", "Group 5", "Stop")],
        )
        with self.assertRaisesMessage(ValidationError, "Group 5"):
            self.read("throttle", "throttle", "supply", supply_v="5.0")
        self.read("groups", "pack", "groups", groups=f"{GROUPS} 3.80")
        self.assertEqual(self.codes(), ["S141"])

    def test_a_danger_of_the_pack_does_not_keep_itself_from_being_read(self) -> None:
        place = "set:groups:pack"
        danger = ReadDanger("S071", "Group 5", "Stop")
        note_dangers(self.technician, self.job, "set", place, [danger])
        for again, standing in (((), ["reading"]), (("set:other",), ["reading"]), ((place,), [])):
            self.assertEqual([block.kind for block in blocks(self.job, again)], standing, again)

    def test_a_reading_that_is_taken_back_ends_nothing(self) -> None:
        self.add(Evidence("volts", "48", "on", BRAKE, BRAKE_GROUND))
        self.job.evidence.update(undone=True)
        self.assertEqual(self.codes(), ["too-high"])
        self.add(Evidence("volts", "5.0", "on", BRAKE, BRAKE_GROUND))
        self.assertEqual(self.codes(), [])

    def test_a_reading_that_cannot_be_ends_nothing(self) -> None:
        self.add(Evidence("volts", "48", "on", BRAKE, BRAKE_GROUND))
        self.job.evidence.update(undone=True)
        self.add(Evidence("volts", "OL", "on", BRAKE, BRAKE_GROUND))
        self.assertEqual(self.codes(), ["too-high"])

    def test_a_lead_lets_it_go_with_a_reason_that_the_rider_is_told(self) -> None:
        self.read("throttle", "throttle", "supply", supply_v="12.4")
        (row,) = standing_dangers(self.job)
        for who, reason, error in (
            (self.technician, "meter was wrong", PermissionDenied),
            (self.lead, " ", ValidationError),
        ):
            with self.assertRaises(error):
                let_danger_go(actor=who, job=self.job, uuid=str(row.uuid), reason=reason)
        self.client.force_login(self.lead)
        self.client.post(
            reverse("arrive", args=(self.job_uuid,)),
            {
                "action": "danger",
                "danger": row.uuid,
                "reason": "Meter stood on ohms",
                "version": self.job.version,
            },
        )
        self.assertEqual(self.codes(), [])
        self.assertIn("Meter stood on ohms", [why for _, why in rider_facts(self.job).let_go])

    def test_it_is_open_comes_first_and_keeps_the_job_from_closing(self) -> None:
        self.read("throttle", "throttle", "supply", supply_v="12.4")
        self.assertIn("Danger", whats_open(self.job)[0].words)
        self.assertEqual(stored_next(self.job, job_trace(self.job)).step, "danger")
        with self.assertRaisesMessage(ValidationError, "Danger"):
            close_job(actor=self.technician, job=self.job, reason="done")
        self.let_go(self.job)
        self.assertEqual(Danger.objects.get().how, Danger.How.LET_GO)

    def test_it_holds_for_the_next_job_on_the_bike(self) -> None:
        self.read("throttle", "throttle", "supply", supply_v="12.4")
        second = self.open(complaint="Again")
        self.assertIn("reading", [block.kind for block in blocks(second)])

    def test_it_travels_with_the_job_file(self) -> None:
        self.read("throttle", "throttle", "supply", supply_v="12.4")
        text = canonical_json(export_job(self.job))
        made, outcome = import_job(
            actor=self.technician, text=text.replace(str(self.job_uuid), OTHER)
        )
        self.assertEqual(outcome, "new")
        self.assertIn("S141", [row.code for row in made.dangers.filter(ended=None)])
        self.assertEqual(stands_of(made).info.label, "Fern")


OTHER = "1c1c1c1c-0000-4000-8000-00000000d4a6"


class HazardTest(ShopTest):
    """A job whose rider tells of a burnt smell: dead tests first, then power through a limit."""

    with_engine = True

    def setUp(self) -> None:
        super().setUp()
        self.safe()

    @classmethod
    def open(cls, **more: Any) -> Job:
        return super().open(**{"complaint": "Smelled burnt, then dead"} | more)

    def answer(self, value: str = "") -> None:
        """Answer the dead test that Trace proposes, as on a sound bike where no value is given."""
        trace = job_trace(self.job).trace
        assert trace is not None
        test = propose(trace)[0].test
        said = value or {"smell": "nothing", "ohms": "47k", "diode": "0.52"}[test.kind]
        self.add(*kind_of(test.kind).read(test, said))

    def test_dead_tests_come_first_and_power_then_goes_through_a_limit(self) -> None:
        lit = Evidence("look", "lit", scene="switch_on", observable="display")
        with self.assertRaises(Blocked):
            self.add(lit)
        trace = job_trace(self.job).trace
        assert trace is not None
        for _ in dead_checks(trace.engine):
            self.assertTrue(hazards_standing(self.job))
            self.answer()
        self.assertEqual(hazards_standing(self.job), [])
        with self.assertRaisesMessage(Blocked, "Through a limit"):
            self.add(lit)
        self.add(lit, ticked=(*GATES, "limited"))
        self.add(Evidence("volts", "0.85", "on", SIGNAL, GROUND))

    def test_the_first_power_goes_through_a_limit_on_every_station(self) -> None:
        """Asked once, wherever it is powered first."""
        trace = job_trace(self.job).trace
        assert trace is not None
        plan_job(actor=self.technician, job=self.job, planned=Planned(("check-over",)))
        check = next(row.check for row in rows_of(self.job) if row.check.gates)
        self.assertEqual(limit_gates(self.job), ())
        for _ in dead_checks(trace.engine):
            self.answer()
        self.assertEqual(limit_gates(self.job), ("limited",))
        self.assertIn("limited", write_gates(self.job))
        prove = {"check_id": check.id, "answer": "yes", "ticked": check.gates}
        with self.assertRaisesMessage(ValidationError, "Through a limit"):
            enter(actor=self.technician, job=self.job, **prove)
        with self.assertRaisesMessage(ValidationError, "Through a limit"):
            self.supply(GATES)
        self.supply((*GATES, "limited"))
        self.assertEqual(limit_gates(self.job), ())
        self.assertNotIn("limited", write_gates(self.job))
        enter(actor=self.technician, job=self.job, **prove)

    def supply(self, ticked: Sequence[str]) -> None:
        """Read the throttle's supply in Set."""
        where: dict[str, Any] = {"actor": self.technician, "job": self.job, "subject": "throttle"}
        take_reading(
            **where, key="throttle", step_id="supply", typed={"supply_v": "5.0"}, ticked=ticked
        )

    def test_a_short_that_is_read_stops_power_until_it_is_gone(self) -> None:
        while propose_of(self.job).kind != "ohms":
            self.answer()
        self.answer("0.3")
        self.assertEqual({row.code for row in hazards_standing(self.job)}, {"burnt", "short"})
        with self.assertRaises(ValidationError):
            require_safe(self.job)

    def test_a_lead_lets_it_go_and_power_is_free(self) -> None:
        for row in hazards_standing(self.job):
            let_danger_go(
                actor=self.lead, job=self.job, uuid=str(row.uuid), reason="Only dust on the motor"
            )
        self.add(Evidence("look", "lit", scene="switch_on", observable="display"))


def propose_of(job: Job) -> Test:
    """Return the test that Trace proposes on a job."""
    trace = job_trace(job).trace
    assert trace is not None
    return propose(trace)[0].test
