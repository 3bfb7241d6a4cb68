"""A new shop begins, people come and go, and each sees the pages as they want them."""

import tempfile
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from django.contrib.auth.hashers import Argon2PasswordHasher, make_password
from django.core.exceptions import PermissionDenied, ValidationError
from django.test import TestCase, override_settings
from django.urls import reverse

from brightcircuit.bikes.models import Bike
from brightcircuit.jobs.models import Job
from brightcircuit.shop.first_run import code
from brightcircuit.shop.models import Person, Role, Shop
from brightcircuit.shop.people import (
    add_person,
    make_first_lead,
    reset_password,
    set_active,
    set_role,
    set_shop,
)
from brightcircuit.shop.zones import zone_by
from tests.apps.base import ShopTest, person, upload

GOOD = "marrow-quay-9"
ARGON = override_settings(PASSWORD_HASHERS=["brightcircuit.common.hashing.ShopHasher"])
FIRST = {"name": "nila", "password": GOOD, "again": GOOD}
LOCAL = {"REMOTE_ADDR": "127.0.0.1", "SERVER_NAME": "localhost"}
TABLET = {"REMOTE_ADDR": "192.0.2.7", "SERVER_NAME": "localhost"}


class StoredPasswordTest(TestCase):
    """Passwords are stored as OWASP says, and one that was stored otherwise is stored anew."""

    def test_settings(self) -> None:
        with ARGON:
            stored = make_password(GOOD)
        self.assertTrue(stored.startswith("argon2$argon2id$v=19$m=19456,t=2,p=1$"), stored)

    def test_another_setting_is_stored_anew(self) -> None:
        somebody = person("fay", Role.TECHNICIAN)
        with ARGON:
            somebody.password = Argon2PasswordHasher().encode(GOOD, "saltsaltsalt")
            somebody.save()
            self.assertIn("m=102400", somebody.password)
            self.assertTrue(somebody.check_password(GOOD))
        somebody.refresh_from_db()
        self.assertIn("m=19456", somebody.password)


class FirstRunTest(TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        data = override_settings(DATA=Path(folder.name), TRUSTED_PROXY="", ALLOWED_HOSTS=["*"])
        data.enable()
        self.addCleanup(data.disable)

    def begin(self, data: dict[str, str], **where: Any) -> Any:
        return self.client.post(reverse("start"), data, **where)

    def test_every_page_leads_to_the_first_one_while_there_is_nobody(self) -> None:
        for name in ("bench", "bikes", "login"):
            self.assertRedirects(self.client.get(reverse(name)), reverse("start"))

    def test_from_elsewhere_only_the_printed_code_opens_it(self) -> None:
        for where in (
            TABLET,
            LOCAL | {"HTTP_X_FORWARDED_FOR": "192.0.2.7"},
            LOCAL | {"SERVER_NAME": "quay"},
        ):
            for typed in ("", "aaaa-bbbb-cccc"):
                with self.subTest(where=where, typed=typed):
                    page = self.begin(FIRST | {"code": typed}, **where)
                    self.assertContains(page, "not the code", status_code=422)
        self.assertFalse(Person.objects.exists())
        right = code()
        self.assertRedirects(self.begin(FIRST | {"code": right.upper()}, **TABLET), reverse("shop"))
        self.assertNotEqual(code(), right, "a code counts once")

    def test_at_the_machine_itself_no_code_is_asked_and_it_works_once(self) -> None:
        self.assertNotContains(self.client.get(reverse("start"), **LOCAL), "Code")
        for wrong, words in (
            ({"again": "another-one-9"}, "differ"),
            ({"password": "short", "again": "short"}, "too short"),
            ({"name": " "}, "Fill this in."),
        ):
            self.assertContains(self.begin(FIRST | wrong, **LOCAL), words, status_code=422)
        self.assertRedirects(self.begin(FIRST, **LOCAL), reverse("shop"))
        self.assertTrue(Person.objects.get().is_lead)
        with self.assertRaises(PermissionDenied):
            make_first_lead(name="second", password=GOOD)
        self.assertRedirects(self.begin(FIRST | {"name": "second"}, **LOCAL), reverse("bench"))

    @override_settings(TRUSTED_PROXY="127.0.0.1")
    def test_behind_a_proxy_nobody_is_at_the_machine_itself(self) -> None:
        self.assertContains(self.client.get(reverse("start"), **LOCAL), "Code")

    def test_then_come_the_shop_and_its_bikes(self) -> None:
        self.begin(FIRST, **LOCAL)
        values = {
            "name": "Lantern Yard",
            "place": "",
            "time_zone": "Nowhere/Now",
            "units": "both",
            "money": "€",
        }
        page = self.client.post(reverse("shop"), values)
        self.assertContains(page, "No time zone is named after", status_code=422)
        place = self.client.post(reverse("shop"), values | {"time_zone": "", "place": "Nowhere"})
        self.assertContains(place, "Nothing is known of", status_code=422)
        page = self.client.post(reverse("shop"), values | {"time_zone": "lisbon"})
        self.assertRedirects(page, reverse("bikes-first"))
        self.assertContains(self.client.get("/"), "Lantern Yard")


class ZoneTest(TestCase):
    def test_a_city_finds_its_zone_and_what_is_not_clear_is_named(self) -> None:
        for text, wanted in (
            ("Lisbon", "Europe/Lisbon"),
            (" new  york ", "America/New_York"),
            ("buenos aires", "America/Argentina/Buenos_Aires"),
            ("Asia/Tokyo", "Asia/Tokyo"),
            ("UTC", "UTC"),
            ("", ""),
        ):
            with self.subTest(text):
                self.assertEqual(zone_by(text), wanted)
        for text, said in (("Marrow Quay", "No time zone"), ("san", "Several fit 'san'")):
            with self.subTest(text), self.assertRaisesMessage(ValidationError, said):
                zone_by(text)


class PeopleTest(ShopTest):
    def test_the_rule_stands_before_the_field_and_what_was_typed_stays(self) -> None:
        page = self.client.get(reverse("password"))
        self.assertContains(page, "12 signs or more")
        data = {"old": "wrong", "password": "lantern-reef-7", "again": "lantern-reef-7"}
        page = self.client.post(reverse("password"), data)
        self.assertContains(page, 'value="lantern-reef-7"', count=2, status_code=422)
        self.assertNotContains(page, 'value="wrong"', status_code=422)

    def test_a_label_warns_of_an_address_that_only_this_machine_knows(self) -> None:
        url = reverse("bike-label", args=(self.revision.bike.uuid,))
        for name, warns in (("localhost", True), ("127.0.0.1", True), ("testserver", False)):
            with self.subTest(name):
                page = self.client.get(url, SERVER_NAME=name).content.decode()
                self.assertEqual("only this machine knows" in page, warns)

    def as_lead(self, **data: Any) -> Any:
        self.client.force_login(self.lead)
        return self.client.post(reverse("people"), data, follow=True)

    def test_a_new_person_chooses_a_password_before_anything_else(self) -> None:
        self.assertContains(
            self.as_lead(do="add", name="wren", password=GOOD, role="technician"),
            "wren can sign in",
        )
        self.client.login(username="wren", password=GOOD)
        for name in ("bench", "bikes", "preferences"):
            self.assertRedirects(self.client.get(reverse(name)), reverse("password"))
        own = {"old": GOOD, "password": "lantern-reef-7", "again": "lantern-reef-7"}
        for wrong, words in (({"old": "x"}, "not the present"), ({"again": "x"}, "differ")):
            self.assertContains(
                self.client.post(reverse("password"), own | wrong), words, status_code=422
            )
        self.assertRedirects(self.client.post(reverse("password"), own), reverse("preferences"))
        self.assertEqual(self.client.get("/").status_code, 200)

    def test_the_first_day_of_everybody_goes_through_the_front_door(self) -> None:
        """Added by a lead, given password changed, own settings stored, first page: by role."""
        for role, first in (("technician", "bench"), ("learner", "practice"), ("lead", "bench")):
            name, own = f"new-{role}", "harbour-slate-77"
            with self.subTest(role):
                self.as_lead(do="add", name=name, password=GOOD, role=role)
                self.client.logout()
                self.client.login(username=name, password=GOOD)
                self.assertRedirects(self.client.get(reverse(first)), reverse("password"))
                changed = self.client.post(
                    reverse("password"), {"old": GOOD, "password": own, "again": own}
                )
                self.assertRedirects(changed, reverse("preferences"))
                page = self.client.get(reverse("preferences"))
                form = page.context["form"]
                values = {name: form[name].value() or "" for name in form.fields}
                kept = self.client.post(reverse("preferences"), values | {"theme": "dark"})
                self.assertEqual(kept.status_code, 302)
                self.assertEqual(Person.objects.get(username=name).theme, "dark")
                self.assertEqual(self.client.get(reverse(first)).status_code, 200)

    def test_only_a_shop_lead_changes_people(self) -> None:
        for act in (
            lambda: add_person(actor=self.technician, name="x", password=GOOD, role="lead"),
            lambda: set_role(actor=self.technician, person=self.technician, role="lead"),
            lambda: set_active(actor=self.technician, person=self.lead, active=False),
            lambda: reset_password(actor=self.technician, person=self.lead, password=GOOD),
            lambda: set_shop(actor=self.technician, values={}),
        ):
            with self.assertRaises(PermissionDenied):
                act()
        self.assertNotContains(self.client.get(reverse("people")), "Reset password")

    def test_the_last_shop_lead_stays_one(self) -> None:
        for data in ({"do": "role", "role": "technician"}, {"do": "off"}):
            page = self.as_lead(person=self.lead.pk, **data)
            self.assertContains(page, "needs one active shop lead", status_code=422)
        person("second", Role.LEAD)
        self.assertContains(
            self.as_lead(do="role", person=self.lead.pk, role="technician"), "is now technician"
        )

    def test_who_has_left_cannot_sign_in_and_keeps_a_name_on_the_record(self) -> None:
        self.as_lead(do="off", person=self.technician.pk)
        self.assertFalse(self.client.login(username="tech", password="tech"))
        self.assertEqual(Job.objects.get().opened_by, self.technician)
        self.as_lead(do="on", person=self.technician.pk)
        self.assertTrue(self.client.login(username="tech", password="tech"))

    def test_a_reset_signs_out_everywhere(self) -> None:
        other = self.client_class()
        other.force_login(self.technician)
        self.assertContains(
            self.as_lead(do="password", person=self.technician.pk, password="short"),
            "too short",
            status_code=422,
        )
        self.as_lead(do="password", person=self.technician.pk, password=GOOD)
        self.assertEqual(other.get("/").status_code, 302)


class OwnPagesTest(ShopTest):
    def test_times_are_those_of_the_shop_in_the_readers_form(self) -> None:
        Job.objects.update(opened=datetime(2026, 7, 1, 22, 30, tzinfo=UTC))
        Shop.objects.create(time_zone="Europe/Lisbon")
        for form, words in (
            ("words", "1 Jul 2026, 23:30"),
            ("iso", "2026-07-01, 23:30"),
            ("dots", "01.07.2026, 23:30"),
            ("month", "Jul 1, 2026, 23:30"),
        ):
            Person.objects.update(dates=form)
            self.assertContains(self.client.get(reverse("record", args=(self.job_uuid,))), words)

    def test_what_was_typed_is_shown_as_typed(self) -> None:
        Person.objects.update(units="imperial", decimal=",")
        Job.objects.update(complaint="Cuts out at 25 km/h, 4.9 V on the throttle")
        page = self.client.get("/")
        self.assertContains(page, "Cuts out at 25 km/h, 4.9 V on the throttle")
        page = self.client.get(reverse("record", args=(self.job_uuid,)))
        self.assertContains(page, "Cuts out at 25 km/h, 4.9 V on the throttle")


LISTED = (
    ("label,template\nFir,hub-conversion\n", ["Fir"], ""),
    ("Label;Frame number;Template;Notes\nFir;LY 1;Hub conversion;left; lever\n", [], "5 columns"),
    ("label\ttemplate\nFir\thand-cycle\nYew\tfolding\n", ["Fir", "Yew"], ""),
    ('label,frame number,template,notes\nFir,LY1,folding,"cut, once"\n\n', ["Fir"], ""),
    ("label,template\nFir,tricycle\n,folding\n", [], "label: missing"),
    ("label\nFir\n", [], "template missing"),
    ("label,template,colour\nFir,folding,red\n", [], "colour"),
    ("label,template\n", [], "no bikes"),
)


class BikeListTest(ShopTest):
    def test_a_list_comes_in_whole_or_not_at_all(self) -> None:
        for text, labels, words in LISTED:
            with self.subTest(text):
                Bike.objects.filter(label__in=("Fir", "Yew")).update(label="earlier")
                page = self.client.post(
                    reverse("bike-list-import"),
                    {"file": upload(text.encode(), "bikes.csv")},
                    follow=True,
                )
                self.assertContains(page, words or "imported.", status_code=422 if words else 200)
                fresh = Bike.objects.filter(label__in=("Fir", "Yew")).order_by("label")
                self.assertEqual([bike.label for bike in fresh], labels)
                self.assertTrue(all("<svg" in bike.small for bike in fresh))
