"""The Wire station: joins, files, order of work, sheet, calculators, first power-up."""

from dataclasses import replace

from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse

from brightcircuit.bikes.services import add_revision
from brightcircuit.bikes.translate import core_bike
from brightcircuit.jobs.descriptions import use_newest_revision
from brightcore.describing.edit import change_part, remove_part
from brightcore.describing.join_edits import set_pairs
from tests.apps.base import StationTest


class WireTest(StationTest):
    def test_proposals_are_accepted_one_by_one_or_all_and_the_job_follows(self) -> None:
        page = self.post("wire", self.job_uuid, action="unjoin", join="j-pack")
        self.assertContains(page, "Connect Pack")
        self.assertContains(page, "W003")
        self.post("wire", self.job_uuid, action="unjoin", join="j-lamp")
        self.assertEqual(self.job.revision.number, 3)
        page = self.post(
            "wire", self.job_uuid, action="accept", pair="pack.main|main_lead.pack_end"
        )
        self.assertContains(page, "1 connection made.")
        page = self.post("wire", self.job_uuid, action="accept-all")
        self.assertContains(page, "Everything is connected")
        self.assertEqual(
            (self.job.revision.number, self.job.log.filter(what="wire").count()), (5, 4)
        )
        self.assertContains(
            self.post("wire", self.job_uuid, action="accept-all"),
            "does not stand any more",
            status_code=422,
        )

    def test_what_ports_cannot_make_is_refused(self) -> None:
        for data, words in (
            ({"action": "join", "one": "pack.main", "two": "lamp.plug"}, "connected already"),
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
            (text, "1 connection imported.", 200),
            (text, "was there already", 200),
        ):
            with self.subTest(words):
                page = self.post(
                    "wire",
                    self.job_uuid,
                    action="take-file",
                    file=SimpleUploadedFile("joins.csv", sent),
                )
                self.assertContains(page, words, status_code=status)
        self.assertContains(
            self.post("wire", self.job_uuid, action="take-file"),
            "Choose a CSV file",
            status_code=422,
        )
        self.assertEqual(
            (self.job.revision.number, len(core_bike(self.job.revision).joins)), (revision + 1, 13)
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
                {
                    "action": "repin",
                    "one": "hall_cable.halls_m.a",
                    "two": "motor.halls.b",
                    "join": hall,
                },
                "Re-pinned",
            ),
            (
                joins,
                seen | {"action": "found"},
                "Inspected: Hall cable, motor hall with Rear hub motor, hall",
            ),
            (("wire", self.job_uuid), {"action": "unjoin", "join": lamp}, "Disconnected"),
            (
                ("wire", self.job_uuid),
                {"action": "join", "one": "lamp.plug", "two": "controller.lamp"},
                "Connected: ",
            ),
            (
                ("wire-join", self.job_uuid, front),
                {"action": "extend", "join": front, "length": "12 in"},
                "Extension of 0.3048 m",
            ),
            (routes, {"action": "measure", "join": self.lamp_join, "length": "1.4 m"}, "too short"),
            (
                routes,
                {"action": "extend", "join": self.lamp_join, "length": "0.57"},
                "Extension of 0.57 m",
            ),
            (
                routes,
                {
                    "action": "frame",
                    "pattern": "front-loader",
                    "length_bar-head": "50 cm",
                    "place_lamp": "bar",
                    "wrapped": "1",
                },
                'value="1" selected',
            ),
            (
                routes,
                {"action": "via", "run": "motor.halls|controller.halls", "via": "seat"},
                "Rerouted",
            ),
        ):
            with self.subTest(data["action"]):
                if callable(data.get("join")):
                    data["join"] = data["join"]()
                self.assertContains(self.post(view, *args, **data), words)
        bike = core_bike(self.job.revision)
        join, frame = bike.join(hall), bike.frame
        self.assertEqual(
            (dict(join.pairs)["a"], len(join.pairs), join.wire.length_m), ("b", 4, 0.15)
        )
        self.assertEqual(
            (bike.part("motor").port("halls").key, bike.part("motor").port("halls").rows),
            ("arrow", 2),
        )
        self.assertEqual(
            (frame.lengths, frame.places, frame.wrapped),
            ((("bar-head", 0.5),), (("lamp", "bar"),), True),
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
                "connected already",
            ),
            (
                ("wire", self.job_uuid),
                {"action": "repin", "join": hall, "one": "motor.halls.a", "two": "motor.halls.b"},
                "either plug of the same connection",
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
            (
                routes,
                {"action": "via", "run": "lamp.plug|controller.lamp", "via": "tyre"},
                "tyre rubs",
            ),
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
        return next(
            j.id for j in core_bike(self.job.revision).joins if "lamp" in {p for p, _ in j.sides()}
        )

    def test_a_change_is_taken_back_and_a_finding_accepted_with_its_reason(self) -> None:
        before = core_bike(self.job.revision)
        self.assertContains(
            self.post("wire", self.job_uuid, action="undo"), "nothing of this job", status_code=422
        )
        page = self.post("wire", self.job_uuid, action="unjoin", join="j-brake-l")
        self.assertContains(page, "Undo")
        key = next(f.finding.key for f in page.context["findings"] if f.finding.code == "W021")
        self.assertContains(
            self.post("wire", self.job_uuid, action="waive", key=key, reason=" "),
            "reason",
            status_code=422,
        )
        self.assertContains(
            self.post(
                "wire", self.job_uuid, action="waive", key=key, reason="Back-pedal brake only"
            ),
            "the reason stays on the job sheet",
        )
        self.assertContains(
            self.client.get(reverse("wire-sheet", args=(self.job_uuid,))), "Back-pedal brake only"
        )
        self.assertContains(self.post("wire", self.job_uuid, action="undo"), "Undone: ")
        self.assertEqual(core_bike(self.job.revision), before)
        self.assertContains(
            self.post("wire", self.job_uuid, action="undo"), "Done again: Disconnected"
        )

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
        done = self.post("wire", self.job_uuid, action="fix", key=key, fix="converter")
        self.assertContains(done, "W008 put right. Step-down converter to 5 V before the Lamp.")
        self.assertContains(done, "The wiring rules find nothing wrong.")
        self.assertContains(
            self.client.get(reverse("wire-fixes", args=(self.job_uuid,))), "No open finding"
        )
        self.assertContains(
            self.post("wire", self.job_uuid, action="fix", key=key, fix="x"),
            "does not stand any more",
            status_code=422,
        )

    def test_a_danger_is_put_right_by_the_hand_first(self) -> None:
        core = set_pairs(
            core_bike(self.revision), "j-battery", (("plus", "minus"), ("minus", "plus"))
        )
        add_revision(actor=self.technician, bike=self.revision.bike, core=core, base=1, what="x")
        use_newest_revision(actor=self.technician, job=self.job)
        page = self.client.get(reverse("wire-fixes", args=(self.job_uuid,)))
        self.assertContains(page, "Done on the bike, pack out")
        row = next(r for r in page.context["rows"] if r["f"].finding.code == "W013")
        data = {"action": "fix", "key": row["f"].finding.key, "fix": row["fixes"][0].remedy}
        self.assertContains(
            self.post("wire", self.job_uuid, **data), "do it on the bike first", status_code=422
        )
        self.assertEqual(self.job.revision.number, 2)
        self.assertContains(
            self.post("wire", self.job_uuid, done="1", **data),
            "W013 put right, done on the bike. Re-pin",
        )
        self.assertEqual(
            dict(core_bike(self.job.revision).join("j-battery").pairs),
            {"plus": "plus", "minus": "minus"},
        )
        self.assertTrue(
            self.job.log.filter(what="wire", text__contains="done on the bike").exists()
        )

    def test_two_people_wiring_one_bike_do_not_overwrite_each_other(self) -> None:
        """The second job on the bike stands on an older description after the first has changed
        it."""
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
            self.post("wire", other.uuid, action="unjoin", join="j-pack"), "Disconnected: Pack"
        )
        self.assertEqual(self.revision.bike.revisions.count(), 3)

    def test_a_closed_job_shows_its_wiring_and_changes_nothing(self) -> None:
        self.post("wire", self.job_uuid, action="unjoin", join="j-brake-l")
        self.let_go(self.job)
        before = self.job.log.count()
        for view in (
            "wire",
            "wire-fixes",
            "wire-routes",
            "wire-order",
            "wire-sheet",
            "first-power-up",
        ):
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
