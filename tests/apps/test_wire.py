"""The Wire station: joins, files, order of work, sheet, calculators, first light."""

import csv
import io
import json
from dataclasses import replace

import jsonschema
from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse

from brightcircuit.arrive.services import answer_triage
from brightcircuit.bikes.services import add_revision
from brightcircuit.bikes.translate import core_bike
from brightcircuit.jobs.services import use_newest_revision
from brightcircuit.record.services import close_job
from brightcircuit.stations.files import export_job
from brightcircuit.wire.queries import done_steps
from brightcore.describing.edit import change_part, remove_part, set_pairs
from brightcore.formats.bike_file import canonical_json
from brightcore.formats.job_file import load_job
from brightcore.formats.schema import job_schema
from brightcore.kinds import REGISTRY
from brightcore.wiring.conductors import conductor_table
from brightcore.wiring.cut_list import cut_list
from tests.apps.base import ALL_NO
from tests.apps.test_stations import StationTest

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
"""Volts on three wires, open and loaded: in the order described, and with supply and ground exchanged."""


class WireTest(StationTest):
    def test_proposals_are_accepted_one_by_one_or_all_and_the_job_follows(self) -> None:
        page = self.post("wire", self.job_uuid, action="unjoin", join="j-pack")
        self.assertContains(page, "Join next")
        self.assertContains(page, "W003")
        self.post("wire", self.job_uuid, action="unjoin", join="j-lamp")
        self.assertEqual(self.job.revision.number, 3)
        page = self.post("wire", self.job_uuid, action="accept", pair="pack.main|main_lead.pack_end")
        self.assertContains(page, "1 join made.")
        page = self.post("wire", self.job_uuid, action="accept-all")
        self.assertContains(page, "Everything is joined")
        self.assertEqual((self.job.revision.number, self.job.log.filter(what="wire").count()), (5, 4))
        self.assertContains(
            self.post("wire", self.job_uuid, action="accept-all"), "does not stand any more", status_code=422
        )

    def test_what_ports_cannot_make_is_refused(self) -> None:
        for data, words in (
            ({"action": "join", "one": "pack.main", "two": "lamp.plug"}, "joined already"),
            ({"action": "unjoin", "join": "jx"}, "no join called"),
            ({"action": "remove", "part": "lamp"}, "Nothing to do"),
            ({"action": "accept", "pair": "a.b|c.d"}, "does not stand"),
        ):
            self.assertContains(self.post("wire", self.job_uuid, **data), words, status_code=422)
        core = core_bike(self.revision)
        add_revision(
            actor=self.technician,
            bike=self.revision.bike,
            core=remove_part(core, "lamp").bike,
            base=1,
            what="x",
        )
        self.assertContains(
            self.post("wire", self.job_uuid, action="unjoin", join="j-pack"),
            "newer description",
            status_code=422,
        )

    def test_joins_go_away_as_a_file_and_come_back(self) -> None:
        text = self.client.get(reverse("wire-csv", args=(self.job_uuid,))).content
        self.post("wire", self.job_uuid, action="unjoin", join="j-pack")
        revision = self.job.revision.number
        for sent, words, status in (
            (text + b"nobody.plug,display.plug,\n", "no part called", 422),
            (b"\xff", "not CSV", 422),
            (text, "1 join taken in.", 200),
            (text, "was there already", 200),
        ):
            with self.subTest(words):
                page = self.post(
                    "wire", self.job_uuid, action="take-file", file=SimpleUploadedFile("joins.csv", sent)
                )
                self.assertContains(page, words, status_code=status)
        self.assertContains(
            self.post("wire", self.job_uuid, action="take-file"), "Choose a CSV file", status_code=422
        )
        self.assertEqual(
            (self.job.revision.number, len(core_bike(self.job.revision).joins)), (revision + 1, 13)
        )

    def test_steps_are_ticked_kept_in_the_log_and_taken_back(self) -> None:
        page = self.client.get(reverse("wire-order", args=(self.job_uuid,)))
        for words in (
            "steps to go",
            "Pack off, unplugged and out",
            "Too early?",
            "No plug is touched while the pack is in.",
        ):
            self.assertContains(page, words)
        self.post("wire-order", self.job_uuid, step="pack-out", done="1")
        self.assertEqual(set(done_steps(self.job)), {"pack-out"})
        self.assertContains(
            self.post("wire-order", self.job_uuid, step="tie", done="1"),
            "Before it should come: Prove every function",
        )
        self.post("wire-order", self.job_uuid, step="tie", done="1")
        self.post("wire-order", self.job_uuid, step="pack-out", done="0")
        self.assertEqual((set(done_steps(self.job)), self.job.log.filter(what="order").count()), ({"tie"}, 3))
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
        for view in ("first-light", "wire-order"):
            self.assertContains(
                self.client.get(reverse(view, args=(self.job_uuid,))), "The pack is in quarantine"
            )
        for step in ("first-light", "prove", "plug:j-pack"):
            self.assertContains(
                self.post("wire-order", self.job_uuid, step=step, done="1"), "in quarantine", status_code=422
            )
        self.post("wire-order", self.job_uuid, step="pack-out", done="1")
        self.assertEqual(set(done_steps(self.job)), {"pack-out"})

    def test_calculators_answer_in_the_address(self) -> None:
        url = reverse("wire", args=(self.job_uuid,))
        for query, words in (
            ({"current_a": "30 A", "length_m": "100 cm", "drop_v": "500 mV"}, "2.5 mm²"),
            ({"current_a": "30", "length_m": "0", "drop_v": "0.5"}, "length m is 0"),
            ({"current_a": "many", "length_m": "1", "drop_v": "0.5"}, "is not a number"),
            (STRAIGHT, "3 the signal"),
            (STRAIGHT | {"plug": "controller.pedal"}, "As described"),
            (TURNED, "Keep the plug as found"),
            ({"open_1": "5", "open_2": "x", "open_3": "4.9"}, "is not a number"),
        ):
            with self.subTest(query):
                refused = "number" in words or "is 0" in words
                self.assertContains(self.client.get(url, query), words, status_code=422 if refused else 200)

    def test_what_the_meter_found_turns_the_pins_of_a_plug_and_asks_to_repin(self) -> None:
        page = self.post("wire", self.job_uuid, action="three", **TURNED)
        self.assertContains(
            page, "Found with the meter on Controller, pedal sensor: 1 ground, 2 5 V, 3 pedal signal."
        )
        self.assertEqual(
            [p.name for p in core_bike(self.job.revision).part("controller").port("pedal").pins],
            ["gnd", "v5", "signal"],
        )
        for change, words in (
            ({"open_2": "0"}, "do not decide"),
            ({"plug": "pack.main"}, "not a plug with 5 V"),
            ({"loaded_3": ""}, "is not a number"),
        ):
            self.assertContains(
                self.post("wire", self.job_uuid, action="three", **TURNED | change), words, status_code=422
            )

    def test_first_light_is_worked_out_and_leads_into_trace(self) -> None:
        url = reverse("first-light", args=(self.job_uuid,))
        waiting = self.client.get(url)
        self.assertContains(waiting, "First the pack.")
        self.assertNotContains(waiting, "the motor must turn")
        self.safe()
        page = self.client.get(url)
        for words in (
            "11 joins, and the motor must turn",
            "Pack plug",
            "motor runs smoothly",
            "?test=look%20throttle",
            "wheel off the ground",
            "torque arm",
            "Cut-offs joined and within reach",
            "under 5 V",
        ):
            self.assertContains(page, words)
        self.post("wire", self.job_uuid, action="unjoin", join="j-pack")
        self.assertContains(
            self.client.get(reverse("first-light", args=(self.job_uuid,))), "the motor does not turn"
        )

    def test_edits_of_joins_change_the_bike_and_bad_ones_keep_what_was_typed(self) -> None:
        hall, front, lamp = "j-halls-m", "j-front", "j-lamp"
        seen = {
            "join": hall,
            "a_gender": "sockets",
            "b_gender": "pins",
            "b_key": "arrow",
            "b_rows": "2",
            "a_colour_a": "green",
            "mate_v5": "supply",
            "mate_gnd": "ground",
            "mate_a": "b",
            "mate_b": "a",
            "area": "26 AWG",
            "length": "15 cm",
        }
        joins, routes = ("wire-join", self.job_uuid, hall), ("wire-routes", self.job_uuid)
        for (view, *args), data, words in (
            (
                ("wire", self.job_uuid),
                {"action": "repin", "one": "hall_cable.halls_m.a", "two": "motor.halls.b", "join": hall},
                "Re-pinned",
            ),
            (
                joins,
                seen | {"action": "found"},
                "Looked at: Hall cable, motor hall with Rear hub motor, hall",
            ),
            (("wire", self.job_uuid), {"action": "unjoin", "join": lamp}, "Taken apart"),
            (
                ("wire", self.job_uuid),
                {"action": "join", "one": "lamp.plug", "two": "controller.lamp"},
                "Joined: ",
            ),
            (
                ("wire-join", self.job_uuid, front),
                {"action": "extend", "join": front, "length": "12 in"},
                "Extension of 0.3048 m",
            ),
            (routes, {"action": "measure", "join": self.lamp_join, "length": "1.4 m"}, "too short"),
            (routes, {"action": "extend", "join": self.lamp_join, "length": "0.57"}, "Extension of 0.57 m"),
            (
                routes,
                {
                    "action": "frame",
                    "pattern": "front-loader",
                    "length_bar-head": "50 cm",
                    "place_lamp": "bar",
                    "wrapped": "1",
                },
                "Split wrap",
            ),
            (
                routes,
                {"action": "via", "run": "motor.halls|controller.halls", "via": "seat"},
                "Led otherwise",
            ),
        ):
            with self.subTest(data["action"]):
                if callable(data.get("join")):
                    data["join"] = data["join"]()
                self.assertContains(self.post(view, *args, **data), words)
        bike = core_bike(self.job.revision)
        join, frame = bike.join(hall), bike.frame
        self.assertEqual((dict(join.pairs)["a"], len(join.pairs), join.wire.length_m), ("b", 4, 0.15))
        self.assertEqual(
            (bike.part("motor").port("halls").key, bike.part("motor").port("halls").rows), ("arrow", 2)
        )
        self.assertEqual(
            (frame.lengths, frame.places, frame.wrapped), ((("bar-head", 0.5),), (("lamp", "bar"),), True)
        )
        self.assertEqual(dict(frame.via), {"motor.halls|controller.halls": "seat"})
        revision = self.job.revision.number
        for (view, *args), data, words in (
            (joins, seen | {"action": "found", "length": "long"}, "is not a number"),
            (joins, seen | {"action": "found", "b_rows": "9", "b_key": "notch"}, "1 to 6"),
            (joins, seen | {"action": "found", "a_colour_a": "mauve"}, "not a colour of the list"),
            (joins, seen | {"action": "found", "mate_v5": "a"}, "twice"),
            (joins, {"action": "extend", "join": hall, "length": "-2"}, "-2"),
            (joins, {"action": "frame"}, "Nothing to do"),
            (
                ("wire", self.job_uuid),
                {"action": "join", "one": "lamp.plug", "two": "pack.main"},
                "joined already",
            ),
            (
                ("wire", self.job_uuid),
                {"action": "repin", "join": hall, "one": "motor.halls.a", "two": "motor.halls.b"},
                "either plug of the same join",
            ),
            (
                routes,
                {"action": "frame", "pattern": "front-loader", "place_lamp": "crown"},
                "fork crown the cable is pinched",
            ),
            (
                routes,
                {"action": "frame", "pattern": "front-loader", "length_bar-head": "90 m"},
                "1 cm to 20 m",
            ),
            (routes, {"action": "frame", "pattern": "hovercraft"}, "no frame"),
            (routes, {"action": "via", "run": "lamp.plug|controller.lamp", "via": "tyre"}, "tyre rubs"),
            (routes, {"action": "measure", "join": "j-pack", "length": ""}, "0 m"),
        ):
            with self.subTest(words, **data):
                page = self.post(view, *args, **data)
                self.assertContains(page, words, status_code=422)
                for name in ("length", "b_key"):
                    if len(data.get(name, "")) > 3:
                        self.assertContains(page, f'value="{data[name]}"', status_code=422)
        self.assertEqual(self.job.revision.number, revision)
        self.assertEqual(
            self.client.get(reverse("wire-join", args=(self.job_uuid, "nothing"))).status_code, 404
        )

    def lamp_join(self) -> str:
        """Return the id of the lamp's join."""
        return next(j.id for j in core_bike(self.job.revision).joins if "lamp" in {p for p, _ in j.sides()})

    def test_a_change_is_taken_back_and_a_finding_accepted_with_its_reason(self) -> None:
        before = core_bike(self.job.revision)
        self.assertContains(
            self.post("wire", self.job_uuid, action="undo"), "nothing of this job", status_code=422
        )
        page = self.post("wire", self.job_uuid, action="unjoin", join="j-brake-l")
        self.assertContains(page, "Take back")
        key = next(f.finding.key for f in page.context["findings"] if f.finding.code == "W021")
        self.assertContains(
            self.post("wire", self.job_uuid, action="waive", key=key, reason=" "), "reason", status_code=422
        )
        self.assertContains(
            self.post("wire", self.job_uuid, action="waive", key=key, reason="Back-pedal brake only"),
            "the reason stays on the job sheet",
        )
        self.assertContains(
            self.client.get(reverse("wire-sheet", args=(self.job_uuid,))), "Back-pedal brake only"
        )
        self.assertContains(self.post("wire", self.job_uuid, action="undo"), "Taken back: ")
        self.assertEqual(core_bike(self.job.revision), before)
        self.assertContains(self.post("wire", self.job_uuid, action="undo"), "Put back: Taken apart")

    def test_a_finding_is_put_right_by_a_fix_that_was_tried(self) -> None:
        core = change_part(
            core_bike(self.revision),
            "lamp",
            "Lamp",
            replace(core_bike(self.revision).part("lamp").spec, rated_v=6.0),
        )
        add_revision(actor=self.technician, bike=self.revision.bike, core=core, base=1, what="x")
        use_newest_revision(actor=self.technician, job=self.job)
        page = self.client.get(reverse("wire-fixes", args=(self.job_uuid,)))
        self.assertContains(page, "Swap: Lamp for 12 V lamp, 5 W")
        key = page.context["rows"][0]["f"].finding.key
        done = self.post(
            "wire", self.job_uuid, action="fix", key=key, fix="Step-down converter to 5 V before the Lamp"
        )
        self.assertContains(done, "W008 put right. Step-down converter to 5 V before the Lamp.")
        self.assertContains(done, "The wiring rules find nothing wrong.")
        self.assertContains(self.client.get(reverse("wire-fixes", args=(self.job_uuid,))), "No open finding")
        self.assertContains(
            self.post("wire", self.job_uuid, action="fix", key=key, fix="x"),
            "does not stand any more",
            status_code=422,
        )

    def test_a_danger_is_put_right_by_the_hand_first(self) -> None:
        core = set_pairs(core_bike(self.revision), "j-battery", (("plus", "minus"), ("minus", "plus")))
        add_revision(actor=self.technician, bike=self.revision.bike, core=core, base=1, what="x")
        use_newest_revision(actor=self.technician, job=self.job)
        page = self.client.get(reverse("wire-fixes", args=(self.job_uuid,)))
        self.assertContains(page, "Done on the bike, pack out")
        row = next(r for r in page.context["rows"] if r["f"].finding.code == "W013")
        data = {"action": "fix", "key": row["f"].finding.key, "fix": row["fixes"][0].words}
        self.assertContains(
            self.post("wire", self.job_uuid, **data), "do it on the bike first", status_code=422
        )
        self.assertEqual(self.job.revision.number, 2)
        self.assertContains(
            self.post("wire", self.job_uuid, done="1", **data), "W013 put right, done on the bike. Re-pin"
        )
        self.assertEqual(
            dict(core_bike(self.job.revision).join("j-battery").pairs), {"plus": "plus", "minus": "minus"}
        )
        self.assertTrue(self.job.log.filter(what="wire", text__contains="done on the bike").exists())

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

    def test_two_people_wiring_one_bike_do_not_overwrite_each_other(self) -> None:
        """The second job on the bike stands on an older description after the first has changed it."""
        other = self.open(complaint="Lamp dark")
        self.post("wire", self.job_uuid, action="unjoin", join="j-lamp")
        page = self.post("wire", other.uuid, action="unjoin", join="j-pack")
        self.assertContains(page, "newer description", status_code=422)
        self.assertContains(
            self.post("wire", other.uuid, action="undo"), "newer description", status_code=422
        )
        use_newest_revision(actor=self.technician, job=other)
        self.assertContains(
            self.post("wire", other.uuid, action="undo"), "nothing of this job", status_code=422
        )
        self.assertContains(
            self.post("wire", other.uuid, action="unjoin", join="j-pack"), "Taken apart: Pack"
        )
        self.assertEqual(self.revision.bike.revisions.count(), 3)

    def test_a_closed_job_shows_its_wiring_and_changes_nothing(self) -> None:
        self.post("wire", self.job_uuid, action="unjoin", join="j-brake-l")
        close_job(actor=self.technician, job=self.job, reason="Rider took it home")
        before = self.job.log.count()
        for view in ("wire", "wire-fixes", "wire-routes", "wire-order", "wire-sheet", "first-light"):
            with self.subTest(view):
                page = self.client.get(reverse(view, args=(self.job_uuid,)))
                self.assertEqual(page.status_code, 200)
                for control in (
                    'value="fix"',
                    'value="unjoin"',
                    'value="accept',
                    'value="extend"',
                    'value="frame"',
                    'value="waive"',
                    'name="done"',
                ):
                    self.assertNotContains(page, control)
        for view, data in (
            ("wire", {"action": "undo"}),
            ("wire", {"action": "unjoin", "join": "j-pack"}),
            ("wire-routes", {"action": "frame", "pattern": "diamond"}),
            ("wire-order", {"step": "pack-out", "done": "1"}),
        ):
            with self.subTest(view, **data):
                self.assertEqual(
                    self.client.post(reverse(view, args=(self.job_uuid,)), data).status_code, 403
                )
        self.assertEqual(self.job.log.count(), before)

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
            "wire-routes", self.job_uuid, action="frame", pattern="longtail", wrapped="1", place_lamp="rack"
        )
        document = json.loads(canonical_json(export_job(self.job)))
        jsonschema.Draft202012Validator(job_schema(REGISTRY)).validate(document)
        self.assertEqual(
            document["bike"]["frame"], {"pattern": "longtail", "places": {"lamp": "rack"}, "wrapped": True}
        )
        bike, _ = load_job(canonical_json(document).encode())
        self.assertEqual(bike, core_bike(self.job.revision))

    def test_tables_of_conductors_and_lengths_hold_together(self) -> None:
        """The cut list as a file says what the page says; the thick and the thin conductors are all there."""
        rows = list(
            csv.DictReader(
                io.StringIO(self.client.get(reverse("wire-cuts", args=(self.job_uuid,))).content.decode())
            )
        )
        core = core_bike(self.job.revision)
        self.assertEqual(
            [(r["what"], float(r["length_m"] or 0)) for r in rows],
            [(c.what, c.length_m) for c in cut_list(core)],
        )
        page = self.client.get(reverse("wire", args=(self.job_uuid,)))
        (_, thick), (heading, thin) = page.context["tables"]
        self.assertEqual(
            (len(thick) + len(thin), heading), (len(conductor_table(core)), f"Signals {len(thin)}")
        )
        self.assertTrue(
            all(row["r"].current_a < 0.5 <= other["r"].current_a for row in thin for other in thick)
        )
        self.assertContains(page, "32 A, 44 A for a minute")
