"""A form counts once, whatever a lost connection makes the browser do. Signing in leads to
pages."""

from collections.abc import Callable
from datetime import timedelta
from urllib.parse import urlsplit

from django.conf import settings
from django.contrib.auth.middleware import LoginRequiredMiddleware
from django.contrib.auth.views import redirect_to_login
from django.contrib.messages import ERROR, get_messages
from django.db import IntegrityError, transaction
from django.http import HttpRequest, HttpResponse, HttpResponseRedirect, JsonResponse
from django.http.response import HttpResponseBase
from django.shortcuts import resolve_url
from django.urls import reverse
from django.utils import timezone
from django.utils.http import url_has_allowed_host_and_scheme

from brightcircuit.common.actor import actor
from brightcircuit.shop.models import Receipt

CLIENT, PERSON = "X-Sent-Once", "X-Person"
"""Headers of a form that a page's script sends: its own id, and who was signed in where it was
typed."""

KEPT = timedelta(days=30)
"""How long it is remembered that a form came in."""

AT_WORK = timedelta(minutes=2)
"""How long a form may be at work: after that its server has died over it, and it may come again."""

Answer = Callable[[HttpRequest], HttpResponse]


def once(answer: Answer) -> Answer:
    """Middleware: a form with an id is done once, and told where it leads instead of being led
    there.

    Where an error is told on the page that it leads to, the form was refused: its draft stays.
    """

    def with_receipt(request: HttpRequest) -> HttpResponse:
        client = request.headers.get(CLIENT, "")[:64]
        if request.method != "POST" or not client:
            return answer(request)
        if not request.user.is_authenticated:
            return JsonResponse({"sign_in": resolve_url(settings.LOGIN_URL)}, status=401)
        typed_by = request.headers.get(PERSON, "")
        # A shared tablet: what one person typed before signing out is not sent in the name of the
        # next.
        if typed_by and typed_by != str(request.user.pk):
            return JsonResponse({"other": str(request.user)}, status=409)
        known = _claim(request, client)
        if known is not None and known.to:
            return JsonResponse({"to": known.to})
        if known is not None:
            return JsonResponse({"under_way": True}, status=409)
        taken = False
        try:
            found = answer(request)
            taken = 300 <= found.status_code < 400
        finally:
            if not taken:
                _let_go(client)
        if not taken:
            return found
        # A page that leads on and says why it refused has not taken the form. Its draft must stay
        # in the browser, so no receipt is given.
        refused = any(message.level >= ERROR for message in get_messages(request))
        if refused:
            _let_go(client)
        else:
            Receipt.objects.filter(client=client).update(to=found["Location"], at=timezone.now())
        told = JsonResponse({"to": found["Location"], "refused": refused})
        told.cookies = found.cookies
        return told

    return with_receipt


def _claim(request: HttpRequest, client: str) -> Receipt | None:
    """Write down that a form is being done; return what is known of it where it came in before.

    Written down before it is done: a page that was left and loaded anew sends its form again while
    the first is still at work.
    """
    now = timezone.now()
    # Swept at each receipt: there is no nightly work on a bench tablet.
    Receipt.objects.filter(at__lt=now - KEPT).delete()
    Receipt.objects.filter(to="", at__lt=now - AT_WORK).delete()
    try:
        with transaction.atomic():
            Receipt.objects.create(client=client, person=actor(request), to="", at=now)
    except IntegrityError:
        return Receipt.objects.filter(client=client).first()
    return None


def _let_go(client: str) -> None:
    """Forget a form that was not taken: sent again, it is done again."""
    Receipt.objects.filter(client=client, to="").delete()


class SignedIn(LoginRequiredMiddleware):
    """Asks to sign in, and leads back to a page: where a form was sent from, never to where it was
    sent."""

    def handle_no_permission(
        self, request: HttpRequest, view_func: Callable[..., HttpResponseBase]
    ) -> HttpResponseRedirect:
        """Return the redirect to the sign-in page."""
        if request.method in ("GET", "HEAD"):
            return super().handle_no_permission(request, view_func)
        return redirect_to_login(page_before(request), resolve_url(settings.LOGIN_URL))


def page_before(request: HttpRequest) -> str:
    """Return the page of this application from which a form was sent; the Bench where that is not
    known."""
    before = request.headers.get("Referer", "")
    if not url_has_allowed_host_and_scheme(before, {request.get_host()}, request.is_secure()):
        return reverse("bench")
    found = urlsplit(before)
    if found.query:
        return f"{found.path}?{found.query}"
    return found.path
