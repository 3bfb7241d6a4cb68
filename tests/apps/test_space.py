"""The Space page: rooms and sizes typed, judged, kept as a revision, and refused with what was
typed."""

from typing import Any

from django.urls import reverse

from brightcircuit.bikes.translate import core_bike
from tests.apps.base import ShopTest


class SpacePageTest(ShopTest):
    def send(self, **data: Any) -> Any:
        url = reverse("space", args=(self.job_uuid,))
        return self.client.post(url, {"based_on": str(self.job.version), **data}, follow=True)

    def test_a_pack_is_measured_and_judged(self) -> None:
        self.assertContains(
            self.client.get(reverse("space", args=(self.job_uuid,))), "Nothing measured yet"
        )
        self.send(action="add-room", name="Frame", shape="triangle")
        page = self.send(action="keep-room", room="room-1", part=["pack"])
        self.assertContains(page, "Not known. Measure:")
        self.send(
            action="keep-room",
            room="room-1",
            part=["pack"],
            **{"room-1-a_mm": "24.5 in", "room-1-b_mm": "480", "room-1-c_mm": "52 cm"},
            **{"room-1-depth_mm": "110"},
        )
        size = {"pack-length_mm": "360", "pack-width_mm": "90", "pack-height_mm": "11 cm"}
        self.assertContains(self.send(action="sizes", **size), "Fits.")
        self.assertContains(
            self.send(action="sizes", **size | {"pack-slide_mm": "400"}), "Does not fit:"
        )
        space = core_bike(self.job.revision).space
        self.assertAlmostEqual(space.rooms[0].a_mm, 622.3)
        self.assertTrue(self.job.log.filter(what="match", text__contains="Parts measured").exists())
        self.send(action="drop-room", room="room-1")
        self.assertEqual(core_bike(self.job.revision).space.rooms, ())

    def test_what_is_wrong_is_named_and_stays(self) -> None:
        for data, words in (
            ({"action": "add-room", "name": "", "shape": "box"}, "Give it a name"),
            ({"action": "add-room", "name": "Bag", "shape": "sphere"}, "Choose what it is"),
            ({"action": "keep-room", "room": "room-9"}, "not there any more"),
            ({"action": "sizes", "pack-length_mm": "long"}, "is not a number"),
            ({"action": "sizes", "pack-length_mm": "6 m"}, "at most 5000 mm"),
        ):
            with self.subTest(words):
                page = self.send(**data)
                self.assertContains(page, words, status_code=422)
                for value in data.values():
                    if value in ("long", "6 m"):
                        self.assertContains(page, f'value="{value}"', status_code=422)
        self.assertEqual(self.job.revision.number, 1)
