"""Working along the wiring over HTTP: steps, first power-up, plugs tested, calculators and the
sheet."""

import csv
import io
import json

import jsonschema
from django.urls import reverse
from django.utils.html import escape

from brightcircuit.arrive.services import answer_triage
from brightcircuit.bikes.translate import core_bike
from brightcircuit.stations.files import export_job
from brightcircuit.wire.queries import done_steps, work_of
from brightcore.formats.bike_writing import canonical_json
from brightcore.formats.job_file import load_job
from brightcore.formats.job_schema import job_schema
from brightcore.kinds import REGISTRY
from brightcore.wiring.conductors import conductor_table
from brightcore.wiring.cut_list import cut_list
from tests.apps.base import ALL_NO, StationTest

STRAIGHT = {
    "open_1": "5",
    "open_2": "0",
    "open_3": "4.9",
    "loaded_1": "4.9",
    "loaded_2": "0",
    "loaded_3": "0.4",
}


TURNED = {
    "open_1": "0",
    "open_2": "5",
    "open_3": "4.9",
    "loaded_1": "0",
    "loaded_2": "4.9",
    "loaded_3": "0.4",
    "plug": "controller.pedal",
}


class WireWorkTest(StationTest):
    def test_steps_are_ticked_kept_in_the_log_and_taken_back(self) -> None:
        self.job_uuid = self.open(purposes=["build"]).uuid
        page = self.client.get(reverse("wire-order", args=(self.job_uuid,)))
        for words in (
            "steps to go",
            "Pack stays out",
            "If skipped:",
            "No plug is touched while the pack is in.",
        ):
            self.assertContains(page, words)
        cautions = [
            step.caution for step in work_of(self.job).steps if step.caution and not step.powered
        ]
        self.assertGreater(len(cautions), 3)
        for words in cautions:  # whoever goes out of order has read it as well
            self.assertContains(page, escape(words))
        self.post("wire-order", self.job_uuid, step="pack-out", done="1")
        self.assertEqual(set(done_steps(self.job)), {"pack-out"})
        self.assertContains(
            self.post("wire-order", self.job_uuid, step="tie", done="1"),
            "Before it should come: Make the checks on Prove",
        )
        self.post("wire-order", self.job_uuid, step="tie", done="1")
        self.post("wire-order", self.job_uuid, step="pack-out", done="0")
        self.assertEqual(
            (set(done_steps(self.job)), self.job.log.filter(what="order").count()), ({"tie"}, 3)
        )
        self.assertContains(
            self.post("wire-order", self.job_uuid, step="no-such", done="1"),
            "not part of the work",
            status_code=422,
        )

    def test_the_sheet_has_every_plug_cable_and_open_finding(self) -> None:
        self.post("wire", self.job_uuid, action="unjoin", join="j-pack")
        page = self.client.get(reverse("wire-sheet", args=(self.job_uuid,)))
        for words in ("Motor hall", "RD red", "Motor cable", "about 13 AWG", "W003"):
            self.assertContains(page, words)
        drawn = self.client.get(reverse("wire-svg", args=(self.job_uuid,)))
        self.assertIn("image/svg+xml", drawn["Content-Type"])
        self.assertIn(b"plugs and pins, revision 2", drawn.content)

    def test_a_quarantined_pack_stands_before_powered_steps(self) -> None:
        answer_triage(actor=self.technician, job=self.job, answers=ALL_NO | {"swollen": True})
        for view in ("first-power-up", "wire-order"):
            self.assertContains(
                self.client.get(reverse(view, args=(self.job_uuid,))), "The pack is in quarantine"
            )
        build = self.open(purposes=["build"]).uuid
        for step in ("power-up", "prove", "connect:j-pack"):
            self.assertContains(
                self.post("wire-order", build, step=step, done="1"),
                "in quarantine",
                status_code=422,
            )
        self.post("wire-order", build, step="pack-out", done="1")
        self.job_uuid = build
        self.assertEqual(set(done_steps(self.job)), {"pack-out"})

    def test_calculators_answer_in_the_address(self) -> None:
        for query, words in (
            ({"current_a": "30 A", "length_m": "100 cm", "drop_v": "500 mV"}, "2.5 mm²"),
            ({"current_a": "30", "length_m": "0", "drop_v": "0.5"}, "length m is 0"),
            ({"current_a": "many", "length_m": "1", "drop_v": "0.5"}, "is not a number"),
        ):
            with self.subTest(query):
                refused = "number" in words or "is 0" in words
                page = self.client.get(reverse("wire-size", args=(self.job_uuid,)), query)
                self.assertContains(page, words, status_code=422 if refused else 200)

    def test_first_power_up_is_worked_out_and_leads_into_trace(self) -> None:
        url = reverse("first-power-up", args=(self.job_uuid,))
        waiting = self.client.get(url)
        self.assertContains(waiting, "First the pack.")
        self.assertNotContains(waiting, "connections, and the motor must turn")
        self.safe()
        page = self.client.get(url)
        for words in (
            "11 connections, and the motor must turn",
            "Pack plug",
            "motor runs smoothly",
            "?test=look%20throttle",
            "wheel off the ground",
            "torque arm",
            "Cut-offs connected and within reach",
            "under 5 V",
        ):
            self.assertContains(page, words)
        self.post("wire", self.job_uuid, action="unjoin", join="j-pack")
        self.assertContains(
            self.client.get(reverse("first-power-up", args=(self.job_uuid,))),
            "the motor does not turn",
        )

    def test_the_sheet_goes_away_in_every_format(self) -> None:
        for view, kind, words in (
            ("wire-pdf", "application/pdf", b"%PDF"),
            ("wire-drawing", "image/svg+xml", b"Fern, wiring, revision 1"),
            ("wire-csv", "text/csv", b"pack.main.plus"),
            ("wire-cuts", "text/csv", b"Cable ties,10,,,,,"),
            ("wire-spice", "text/plain", b".control"),
        ):
            with self.subTest(view):
                one, two = (self.client.get(reverse(view, args=(self.job_uuid,))) for _ in range(2))
                self.assertIn(kind, one["Content-Type"])
                self.assertIn("attachment", one["Content-Disposition"])
                self.assertIn(words, one.content)
                self.assertEqual(one.content, two.content)

    def test_what_was_found_travels_with_the_job_file(self) -> None:
        found = {
            "join": "j-halls-m",
            "a_gender": "sockets",
            "b_gender": "pins",
            "b_key": "arrow",
            "b_rows": "2",
            "mate_a": "a",
            "length": "0.2",
        }
        self.post("wire-join", self.job_uuid, "j-halls-m", action="found", **found)
        self.post("wire-routes", self.job_uuid, action="frame", pattern="longtail", wrapped="1")
        self.post(
            "wire-routes",
            self.job_uuid,
            action="frame",
            pattern="longtail",
            wrapped="1",
            place_lamp="rack",
        )
        document = json.loads(canonical_json(export_job(self.job)))
        jsonschema.Draft202012Validator(job_schema(REGISTRY)).validate(document)
        self.assertEqual(
            document["bike"]["frame"],
            {"pattern": "longtail", "places": {"lamp": "rack"}, "wrapped": True},
        )
        bike, _ = load_job(canonical_json(document).encode())
        self.assertEqual(bike, core_bike(self.job.revision))

    def test_tables_of_conductors_and_lengths_hold_together(self) -> None:
        """The cut list as a file says what the page says; the thick and the thin conductors are all
        there."""
        rows = list(
            csv.DictReader(
                io.StringIO(
                    self.client.get(reverse("wire-cuts", args=(self.job_uuid,))).content.decode()
                )
            )
        )
        core = core_bike(self.job.revision)
        self.assertEqual(
            [(r["what"], float(r["length_m"] or 0)) for r in rows],
            [(c.what, c.length_m) for c in cut_list(core)],
        )
        page = self.client.get(reverse("wire-size", args=(self.job_uuid,)))
        (_, thick), (heading, thin) = page.context["tables"]
        self.assertEqual(
            (len(thick) + len(thin), heading), (len(conductor_table(core)), f"Signals {len(thin)}")
        )
        self.assertTrue(
            all(row.r.current_a < 0.5 <= other.r.current_a for row in thin for other in thick)
        )
        self.assertContains(page, "32 A, 44 A for a minute")
