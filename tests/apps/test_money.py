"""Quote, costs, stock, steps split among people, photos at their places."""

import tempfile
from datetime import timedelta
from decimal import Decimal

from django.core.exceptions import PermissionDenied, ValidationError
from django.urls import reverse
from django.utils import timezone

from brightcircuit.jobs.models import Photo
from brightcircuit.jobs.photos import photo_path
from brightcircuit.library.models import StockItem
from brightcircuit.library.stock import keep_item
from brightcircuit.record import money, queries
from brightcircuit.shop.people import set_shop
from brightcircuit.stations.files import export_job, import_job
from brightcircuit.stations.registry import labour_of
from brightcircuit.wire.queries import steps_of, work_of
from brightcore.errors import BrightError
from brightcore.formats.bike_writing import canonical_json
from brightcore.procedure.costing import (
    Line,
    Tax,
    hours,
    offer_cost,
    read_minutes,
    read_money,
    tally,
    taxed,
)
from tests.apps.base import ShopTest, upload
from tests.apps.test_arrive import picture


class CostingTest(ShopTest):
    def test_sums_are_those_of_a_bill_written_by_hand(self) -> None:
        lines = [
            Line("part", "Hall board", Decimal(1), Decimal("12.90")),
            Line("labour", "Finding the fault", Decimal("0.35"), Decimal("62.50")),
            Line("other", "Postage", Decimal(3), Decimal("1.115")),
        ]
        self.assertEqual(
            [line.amount for line in lines], [Decimal("12.90"), Decimal("21.88"), Decimal("3.35")]
        )
        self.assertEqual(tally(lines).total, Decimal("38.13"))
        self.assertEqual([title for title, _ in tally(lines).by_kind], ["Part", "Labour", "Other"])
        self.assertEqual(hours(21), Decimal("0.35"))
        for rate, wanted in (("0.29", "10.00"), ("0.30", "10.01"), ("0.90", "10.02")):
            self.assertEqual(offer_cost(Decimal(10), Decimal(rate), 1), Decimal(wanted))

    def test_times_are_read_as_people_type_them(self) -> None:
        for text, wanted in (
            ("25", 25),
            ("25 min", 25),
            ("25min.", 25),
            ("1 h", 60),
            ("1h20", 80),
            ("1 h 20 min", 80),
            ("1,5 h", 90),
            ("1:20", 80),
            ("0:05", 5),
            ("2 hours", 120),
        ):
            with self.subTest(text):
                self.assertEqual(read_minutes("Time", text, 1000), wanted)
        for text in ("", "long", "1:75", "min", "-5", "1001", "1 d"):
            with self.subTest(text), self.assertRaises(BrightError):
                read_minutes("Time", text, 1000)

    def test_a_tax_is_held_in_the_amount_or_added_to_it(self) -> None:
        """Figures by hand: 119 holds 19 at 19 %, 100 and 19 % are 119; half a cent goes up."""
        for amount, percent, within, wanted in (
            ("119.00", "19", True, ("100.00", "19.00", "119.00")),
            ("100.00", "19", False, ("100.00", "19.00", "119.00")),
            ("0.50", "21", False, ("0.50", "0.11", "0.61")),
            ("10.00", "0", True, ("10.00", "0.00", "10.00")),
            ("12.10", "21", True, ("10.00", "2.10", "12.10")),
        ):
            with self.subTest(amount=amount, percent=percent, within=within):
                found = taxed(Decimal(amount), Tax("Tax", Decimal(percent), within))
                self.assertEqual((found.net, found.tax, found.total), tuple(map(Decimal, wanted)))

    def test_amounts_are_read_as_people_type_them(self) -> None:
        for text, wanted in (
            ("3,10", "3.10"),
            ("1 200.5", "1200.50"),
            ("", "0.00"),
            ("1000000", "1000000.00"),
        ):
            self.assertEqual(read_money("One", text), Decimal(wanted))
        for text in ("three", "-1", "1000000.01", "nan", "inf", "1,2,3"):
            with self.subTest(text), self.assertRaises(Exception):  # noqa: B017
                read_money("One", text)


class MoneyTest(ShopTest):
    def setUp(self) -> None:
        super().setUp()
        self.safe()
        self.item = keep_item(
            actor=self.technician,
            values={"name": "Hall board", "count": "2", "least": "2", "each": "12.90"},
        )

    def post(self, page: str, **data: str) -> int:
        return self.client.post(reverse(page, args=(self.job_uuid,)), data).status_code

    def left(self) -> int:
        return StockItem.objects.get(pk=self.item.pk).count

    def test_a_part_goes_off_the_shelf_and_back(self) -> None:
        for count, status, left in (
            ("3", 422, 2),
            ("1.5", 422, 2),
            ("0", 422, 2),
            ("2", 302, 0),
            ("1", 422, 0),
        ):
            with self.subTest(count):
                self.assertEqual(
                    self.post("record-costs", stock=str(self.item.pk), count=count), status
                )
                self.assertEqual(self.left(), left)
        page = self.client.get(reverse("record-costs", args=(self.job_uuid,)))
        self.assertContains(page, "25.80")
        (line,) = queries.lines_of(self.job)
        self.assertEqual(self.post("record-costs", do="undo", uuid=str(line.uuid)), 302)
        self.assertEqual((self.left(), queries.lines_of(self.job).count()), (2, 0))
        self.assertEqual(self.post("record-costs", do="undo", uuid=str(line.uuid)), 422)

    def test_an_hour_costs_what_the_shop_says_and_nothing_typed_is_not_nothing(self) -> None:
        offer = {"words": "Repair", "parts": "10", "minutes": "1 h 30"}
        self.assertEqual(self.post("record-quote", **offer, rate=""), 422)
        self.assertEqual(self.post("record-quote", **offer | {"minutes": "0"}), 302)
        self.assertEqual(self.post("record-quote", **offer, rate="40"), 302)
        set_shop(actor=self.lead, values={"rate": Decimal(60)})
        self.assertEqual(self.post("record-quote", **offer, rate="40"), 302)
        costs = [str(row.cost) for row in self.job.offers.all()]
        self.assertEqual(costs, ["10.00", "70.00", "100.00"])

    def test_what_was_decided_is_put_on_as_it_was_offered_once(self) -> None:
        set_shop(actor=self.lead, values={"rate": Decimal(60)})
        with self.assertRaises(ValidationError):
            money.put_offer_on(actor=self.technician, job=self.job)
        self.post("record-quote", words="New hall board", parts="12.90", minutes="45")
        (made,) = self.job.offers.all()
        self.post("record-quote", do="choose", uuid=str(made.uuid))
        url = reverse("record-costs", args=(self.job_uuid,))
        self.assertContains(self.client.get(url), "Put it on as offered")
        self.assertEqual(self.post("record-costs", do="offer"), 302)
        lines = [(row.kind, str(row.line.amount)) for row in queries.lines_of(self.job)]
        self.assertEqual(lines, [("part", "12.90"), ("labour", "45.00")])
        self.assertNotContains(self.client.get(url), "Put it on as offered")
        self.assertEqual(self.post("record-costs", do="offer"), 422)

    def test_the_bill_shows_a_tax_only_where_the_shop_has_one(self) -> None:
        url = reverse("record-costs", args=(self.job_uuid,))
        self.post("record-costs", kind="other", words="Postage", count="1", each="119")
        self.assertNotContains(self.client.get(url), "To pay")
        set_shop(actor=self.lead, values={"tax_percent": Decimal(19), "tax_name": "VAT"})
        self.assertContains(self.client.get(url), "VAT 19 %, held in the amounts")
        self.assertContains(self.client.get(url), "19.00")
        set_shop(actor=self.lead, values={"tax_within": False})
        self.assertContains(self.client.get(url), "141.61")

    def test_a_warranty_that_is_over_is_asked_about(self) -> None:
        url = reverse("record-costs", args=(self.job_uuid,))
        yesterday = timezone.localdate() - timedelta(days=1)
        for day, past, status in (
            (yesterday, "", 422),
            (yesterday, "1", 302),
            (timezone.localdate(), "", 302),
        ):
            with self.subTest(day=day, past=past):
                data = {"do": "warranty", "words": "Joints", "until": str(day), "past": past}
                answer = self.client.post(url, data)
                self.assertEqual(answer.status_code, status)
                if status == 422:
                    self.assertContains(answer, f'value="{day}"', status_code=422)

    def test_labour_is_told_by_every_station_where_something_was_done(self) -> None:
        """Two checks at the stand and one on the road take 2 + 2 + 6 min (`effort.py`)."""
        for check in ("walk", "assist", "road-hill"):
            self.job.proofs.create(
                check_id=check,
                title=check,
                passed=True,
                at=timezone.now(),
                by=self.technician,
                by_name="tech",
            )
        self.job.calibrations.create(
            instrument="throttle",
            typed={"rest": "0.8", "full": "3.6"},
            state="good",
            title="Throttle",
            at=timezone.now(),
            by=self.technician,
            by_name="tech",
        )
        for how in ("seen", "entered", "read", "written", "file"):
            self.job.told.create(
                part="display",
                code="P06",
                value=40,
                how=how,
                at=timezone.now(),
                by=self.technician,
                by_name="tech",
            )
        told = dict(labour_of(self.job))
        self.assertEqual(told["Proving"], 10.0)
        self.assertEqual(told["Programming"], 4.0)  # two by hand; a link and a file work alone
        self.assertAlmostEqual(told["Setting up"], 4.4)

    def test_labour_is_known_by_what_was_done(self) -> None:
        self.job_uuid = self.open(purposes=["build"]).uuid
        self.client.post(
            reverse("wire-order", args=(self.job_uuid,)), {"step": "pack-out", "done": "1"}
        )
        page = self.client.get(reverse("record-costs", args=(self.job_uuid,)))
        self.assertContains(page, "Order of work, about 1 min")
        self.post("record-costs", kind="labour", words="Order of work", count="0.02", each="60")
        self.assertEqual(queries.tally_of(queries.lines_of(self.job)).total, Decimal("1.20"))

    def test_what_is_typed_wrong_names_its_field_and_is_kept(self) -> None:
        url = reverse("record-quote", args=(self.job_uuid,))
        page = self.client.post(
            url, {"words": "Swap it", "parts": "dear", "minutes": "10", "rate": "60"}
        )
        self.assertContains(page, "Parts: &#x27;dear&#x27; is not an amount", status_code=422)
        self.assertContains(page, 'value="Swap it"', status_code=422)

    def test_a_customer_decides_for_one_offer(self) -> None:
        for words in ("Repair", "Replace"):
            self.post(
                "record-quote",
                words=words,
                parts="80",
                minutes="45",
                rate="60",
                available="universal",
            )
        first, second = self.job.offers.all()
        self.assertEqual(first.cost, Decimal("125.00"))
        for chosen in (first, second):
            self.post("record-quote", do="choose", uuid=str(chosen.uuid))
        self.assertEqual([row.title for row in self.job.offers.filter(chosen=True)], ["Replace"])
        self.assertEqual(self.job.decided, "Replace, 125.00")
        self.post("record-quote", do="remove", uuid=str(second.uuid))
        self.assertEqual(self.job.offers.filter(gone=False).count(), 1)
        self.assertContains(
            self.client.get(reverse("record", args=(self.job_uuid,))), "Repair</span>: 125.00"
        )

    def test_the_locked_drive_is_offered_a_rescue(self) -> None:
        url = reverse("record-quote", args=(self.job_uuid,))
        self.assertNotContains(self.client.get(url), "open controller")
        job = self.job
        job.purposes = ["rescue"]
        job.save(update_fields=["purposes"])
        self.assertContains(self.client.get(url), "open controller")

    def test_money_goes_with_the_job_file_and_comes_back(self) -> None:
        self.post("record-quote", words="Repair", parts="80", minutes="45", rate="60")
        self.post("record-costs", kind="other", words="Postage", count="2", each="3.10")
        self.post("record-costs", do="warranty", words="Our joints", until="2027-03-31")
        document = export_job(self.job)
        self.assertEqual(document["version"], 3)
        self.let_go(self.job)
        job, outcome = import_job(actor=self.technician, text=canonical_json(document))
        self.assertEqual(outcome, "copy")
        again = export_job(job)["job"]
        for name in ("offers", "costs", "warranty"):
            self.assertEqual(again[name], document["job"][name])

    def test_a_closed_job_takes_no_money(self) -> None:
        self.let_go(self.job)
        for act in (
            lambda: money.add_line(
                actor=self.technician, job=self.job, typed={"kind": "other", "words": "x"}
            ),
            lambda: money.offer(actor=self.technician, job=self.job, typed={"words": "x"}),
            lambda: money.answer_for(actor=self.technician, job=self.job, words="x", until=""),
        ):
            with self.assertRaises(PermissionDenied):
                act()

    def test_the_stock_list_refuses_what_it_cannot_count(self) -> None:
        for values, words in (
            ({"name": ""}, "Name"),
            ({"name": "hall BOARD"}, "on the list already"),
            ({"name": "Lever", "count": "-1"}, "There"),
            ({"name": "Lever", "least": "many"}, "Least"),
            ({"name": "Lever", "each": "x"}, "One costs"),
        ):
            with self.subTest(words), self.assertRaisesMessage(ValidationError, words):
                keep_item(actor=self.technician, values=values)
        self.assertContains(self.client.get(reverse("stock")), "Hall board")

    def test_sheets_come_as_pdf(self) -> None:
        for name in ("record-pdf", "record-rider-pdf", "record-quote-pdf", "record-bill-pdf"):
            answer = self.client.get(reverse(name, args=(self.job_uuid,)))
            self.assertEqual(
                (answer["Content-Type"], answer.content[:4]), ("application/pdf", b"%PDF")
            )


class StepsTest(ShopTest):
    def test_steps_are_given_found_at_and_shown_by_person(self) -> None:
        self.job_uuid = self.open(purposes=["build"]).uuid
        self.safe()
        url = reverse("wire-order", args=(self.job_uuid,))
        for data, status in (
            ({"do": "give", "step": "wheel-up", "to": "boss"}, 302),
            ({"do": "give", "step": "wheel-up", "to": "nobody"}, 422),
            ({"do": "give", "step": "no-such", "to": "boss"}, 422),
            (
                {"do": "found", "step": "route", "found": " rubbed through (left): at the crown "},
                302,
            ),
            ({"do": "found", "step": "route", "found": " "}, 422),
        ):
            with self.subTest(data):
                self.assertEqual(self.client.post(url, data).status_code, status)
        said = steps_of(self.job, work_of(self.job))
        self.assertEqual(said.given, {"wheel-up": "boss"})
        self.assertEqual(said.found, {"route": ["rubbed through (left): at the crown (tech)"]})
        page = self.client.get(url, {"for": "boss"})
        self.assertEqual([row.s.id for row in page.context["rows"]], ["wheel-up"])
        self.assertContains(self.client.get(url), "rubbed through (left)")


class PlacesTest(ShopTest):
    def test_a_photo_stands_at_its_plug_and_is_deleted_with_a_line(self) -> None:
        with tempfile.TemporaryDirectory() as folder, self.settings(DATA=folder):
            shape = reverse("job-shape", args=(self.job_uuid, "part:controller"))
            card = self.client.get(shape)
            place = card.content.decode().split('name="place" value="')[1].split('"')[0]
            self.assertRegex(place, r"^plug:controller\.")
            data = {"place": place, "caption": "Green pins", "to": shape}
            answer = self.client.post(
                reverse("photo-add", args=(self.job_uuid,)),
                data | {"photo": upload(picture(), "x.jpg")},
            )
            self.assertRedirects(answer, shape)
            self.assertContains(self.client.get(shape), "Green pins")
            photo = Photo.objects.get()
            other = self.client.post(
                reverse("photo-delete", args=(self.job_uuid, photo.uuid)),
                {"to": "https://elsewhere.example/"},
            )
            self.assertRedirects(other, reverse("arrive-found", args=(self.job_uuid,)))
            self.assertNotContains(self.client.get(shape), "Green pins")
            self.assertTrue(self.job.log.filter(text="Photo deleted: Green pins").exists())
            gone = self.client.get(reverse("photo", args=(self.job_uuid, photo.uuid)))
            self.assertEqual((gone.status_code, Photo.objects.get().gone is None), (404, False))
            self.assertTrue(photo_path(photo).exists())
