"""All addresses."""

from django.contrib.auth import views as auth
from django.contrib.auth.decorators import login_not_required
from django.urls import URLPattern, URLResolver, include, path

urlpatterns: list[URLPattern | URLResolver] = [
    path("sign-in/", login_not_required(auth.LoginView.as_view(template_name="shop/sign_in.html")), name="login"),
    path("sign-out/", auth.LogoutView.as_view(), name="logout"),
    path("", include("brightcircuit.jobs.urls")),
    path("bikes/", include("brightcircuit.bikes.urls")),
    path("jobs/<uuid:job_uuid>/arrive/", include("brightcircuit.arrive.urls")),
    path("jobs/<uuid:job_uuid>/trace/", include("brightcircuit.trace.urls")),
    path("jobs/<uuid:job_uuid>/record/", include("brightcircuit.record.urls")),
    path("parts/", include("brightcircuit.library.urls")),
    path("jobs/<uuid:job_uuid>/match/", include("brightcircuit.match.urls")),
    path("jobs/<uuid:job_uuid>/wire/", include("brightcircuit.wire.urls")),
    path("me/", include("brightcircuit.shop.urls")),
]
