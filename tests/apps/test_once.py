"""A form that a page's script sends counts once; a refused one is told so; signing in leads to
pages."""

from typing import Any

from django.urls import reverse

from brightcircuit.shop.models import Receipt
from brightcircuit.trace.models import Entry
from tests.apps.base import GATES, StationTest


class OnceTest(StationTest):
    with_engine = True

    def setUp(self) -> None:
        super().setUp()
        self.safe()

    def _send(self, client: str, person: int | None = None, **more: Any) -> Any:
        sent = {"test": "look switch_on", "see-display": "lit", "gate": list(GATES)} | more
        headers = {"X-Sent-Once": client, "X-Person": str(person or self.technician.pk)}
        sent["version"] = self.job.version
        return self.client.post(reverse("trace-keep", args=(self.job_uuid,)), sent, headers=headers)

    def test_the_same_form_is_done_once_and_told_where_it_leads(self) -> None:
        for client, count in (("a", 1), ("a", 1), ("b", 2)):
            answer = self._send(client)
            self.assertFalse(answer.json().get("refused"))
            self.assertEqual(answer.json()["to"], reverse("trace", args=(self.job_uuid,)))
            self.assertEqual(Entry.objects.count(), count)
            self.assertEqual(Receipt.objects.count(), count)

    def test_a_form_that_is_led_on_with_an_error_was_refused(self) -> None:
        answer = self._send("c", test="no such test")
        self.assertTrue(answer.json()["refused"])
        self.assertFalse(Receipt.objects.exists())

    def test_a_form_typed_by_somebody_else_or_signed_out_is_not_done(self) -> None:
        self.assertEqual(self._send("d", person=self.lead.pk).status_code, 409)
        self.client.logout()
        self.assertEqual(self._send("e").status_code, 401)
        self.assertFalse(Entry.objects.exists())

    def test_signing_in_leads_back_to_the_page_of_a_form(self) -> None:
        self.client.logout()
        address = reverse("trace-keep", args=(self.job_uuid,))
        page = reverse("trace", args=(self.job_uuid,))
        for before, wanted in (
            (f"http://testserver{page}", page),
            ("http://elsewhere/x", reverse("bench")),
        ):
            answer = self.client.post(address, {}, headers={"Referer": before})
            self.assertEqual(answer["Location"], f"{reverse('login')}?next={wanted}")
