"""Wrong passwords: a name is locked for the address they came from, and the address is slowed over
all names.

Nobody is ever locked out by what somebody else does elsewhere.
"""

from datetime import datetime, timedelta
from typing import Any

from axes.helpers import get_client_ip_address
from axes.models import AccessAttempt
from django.conf import settings
from django.contrib.auth.views import LoginView
from django.db.models import Max, Sum
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.utils import timezone

FREE = 10
"""Wrong passwords from one address, over all names, before it has to wait."""

LONGEST_WAIT_S = 60.0


def wait_s(failures: int) -> float:
    """Return the seconds between two tries from an address after so many wrong passwords.

    >>> wait_s(9), wait_s(10), wait_s(12), wait_s(40)
    (0.0, 1.0, 4.0, 60.0)
    """
    # A shop of eight behind one address mistypes ten passwords a day without meaning harm.
    if failures < FREE:
        return 0.0
    return min(2.0 ** min(failures - FREE, 10), LONGEST_WAIT_S)


def may_try_at(request: HttpRequest, now: datetime) -> datetime:
    """Return when the address of a request may try a password again; `now` or earlier: at once."""
    since = now - timedelta(hours=settings.AXES_COOLOFF_TIME)
    rows = AccessAttempt.objects.filter(
        ip_address=get_client_ip_address(request), attempt_time__gte=since
    ).aggregate(failures=Sum("failures_since_start"), last=Max("attempt_time"))
    wait = wait_s(rows["failures"] or 0)
    if not wait:
        return now
    last: datetime = rows["last"]
    return last + timedelta(seconds=wait)


def locked(request: HttpRequest, *args: Any, **kwargs: Any) -> HttpResponse:
    """Say until when that name is locked from that place; nobody else is."""
    until = timezone.localtime(timezone.now() + timedelta(hours=settings.AXES_COOLOFF_TIME))
    return render(request, "429.html", {"until": until}, status=429)


class SignIn(LoginView):
    """The sign-in page. An address that guesses waits longer after every wrong password."""

    template_name = "shop/sign_in.html"

    def post(self, request: HttpRequest, *args: Any, **kwargs: Any) -> HttpResponse:
        """Try a password, unless the address has to wait."""
        now = timezone.now()
        until = may_try_at(request, now)
        if settings.AXES_ENABLED and until > now:
            context = {"until": timezone.localtime(until), "slowed": True}
            answer = render(request, "429.html", context, status=429)
            answer["Retry-After"] = str(int((until - now).total_seconds()) + 1)
            return answer
        return super().post(request, *args, **kwargs)
