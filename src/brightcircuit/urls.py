"""All addresses."""

from django.conf import settings
from django.contrib.auth import views as auth
from django.contrib.auth.decorators import login_not_required
from django.urls import URLPattern, URLResolver, include, path

from brightcircuit.shop import people_views
from brightcircuit.shop.lockout import SignIn

Addresses = list[URLPattern | URLResolver]

SIGN_IN = login_not_required(SignIn.as_view())


def station_addresses() -> Addresses:
    """Return the addresses of every station, below those of its job."""
    found: Addresses = []
    for name in settings.STATIONS:
        key = name.rpartition(".")[2]
        found.append(path(f"jobs/<uuid:job_uuid>/{key}/", include(f"{name}.urls")))
    return found


def addresses() -> Addresses:
    """Return all addresses of the application."""
    return [
        path("sign-in/", SIGN_IN, name="login"),
        path("start/", people_views.start, name="start"),
        path("sign-out/", auth.LogoutView.as_view(), name="logout"),
        path("", include("brightcircuit.bench.urls")),
        path("bikes/", include("brightcircuit.bikes.urls")),
        path("practice/", include("brightcircuit.practice.urls")),
        path("parts/", include("brightcircuit.library.urls")),
        path("archive.zip", include("brightcircuit.archive.urls")),
        path("me/", include("brightcircuit.shop.urls")),
        *station_addresses(),
    ]


urlpatterns = addresses()
handler500 = "brightcircuit.common.broken.broken"
