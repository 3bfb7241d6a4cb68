"""A machine whose clock is put back: what came first stays first."""

from datetime import timedelta
from unittest.mock import patch

from django.utils import timezone

from brightcircuit.jobs.clock import MOST_BEHIND, now
from brightcircuit.jobs.log import write
from brightcircuit.jobs.models import LogEntry
from tests.apps.base import ShopTest

MINUTE = timedelta(minutes=1)

PUT_BACK = (
    # how far the clock is put back, whether rows go on after what stands there
    (timedelta(0), True),
    (MINUTE, True),
    (timedelta(hours=2), True),
    (MOST_BEHIND - MINUTE, True),
    (MOST_BEHIND + MINUTE, False),
    (timedelta(days=900), False),
)


class ClockTest(ShopTest):
    def test_lines_stay_in_their_order_where_the_clock_was_put_back(self) -> None:
        for back, goes_on in PUT_BACK:
            with self.subTest(back=back):
                write(self.job, self.technician, "note", "before")
                before = LogEntry.objects.latest("pk").at
                with patch("django.utils.timezone.now", return_value=timezone.now() - back):
                    stamps = [now(), now()]
                    write(self.job, self.technician, "note", "after")
                    stamps.append(LogEntry.objects.latest("pk").at)
                    stamps.append(now())
                self.assertEqual([stamp > before for stamp in stamps], [goes_on] * len(stamps))
                self.assertEqual(stamps, sorted(stamps))
                LogEntry.objects.all().delete()

    def test_a_clock_that_goes_right_is_left_alone(self) -> None:
        write(self.job, self.technician, "note", "before")
        begun = timezone.now()
        self.assertTrue(begun <= now() <= timezone.now())
