"""About this page stands on every page that people open."""

from django.urls import NoReverseMatch, reverse

from brightcircuit.stations.other_help import PAGES
from tests.apps.base import ShopTest


class HelpTest(ShopTest):
    def addresses(self) -> dict[str, str]:
        """Return the address of every page that needs nothing but the shop, its bike and its
        job."""
        bike = self.revision.bike.uuid
        found = {}
        for name in PAGES:
            for args in ((), (bike,), (bike, "controller"), (self.job_uuid,)):
                try:
                    found[name] = reverse(name, args=args)
                    break
                except NoReverseMatch:
                    continue
        return found

    def test_every_page_outside_the_stations_says_what_it_is(self) -> None:
        self.client.force_login(self.lead)
        asked = self.addresses()
        self.assertGreater(len(asked), 20)
        for name, url in asked.items():
            page = self.client.get(url)
            if page.status_code == 200:
                with self.subTest(name):
                    self.assertContains(page, "About this page", count=1)

    def test_every_page_of_a_station_says_what_it_is(self) -> None:
        seen = 0
        page = self.client.get(reverse("arrive", args=(self.job_uuid,)))
        for tab in page.context["stations"]:
            first = self.client.get(tab.url, follow=True)
            for url in {row.url for row in first.context["sections"]} or {tab.url}:
                shown = self.client.get(url, follow=True)
                with self.subTest(url):
                    self.assertContains(shown, "About this page", count=1)
                    seen += 1
        self.assertGreater(seen, 20)
