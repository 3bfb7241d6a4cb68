"""Addresses of the Program station."""

from django.urls import path

from brightcircuit.program import device_views, link_views, views

urlpatterns = [
    path("", device_views.values_page, name="program"),
    path("link/", link_views.link_page, name="program-link"),
    path("link/<slug:part>/", link_views.link_page, name="program-link-device"),
    path("link/<slug:part>/live/", link_views.live_values, name="program-live"),
    path("link/<slug:part>/<int:run>/", link_views.run_page, name="program-run"),
    path("checks/", views.checks_page, name="program-checks"),
    path("snapshots/", views.snapshots_page, name="program-snapshots"),
    path("profiles/", views.profiles_page, name="program-profiles"),
    path("profiles/<slug:name>/", views.profile_page, name="program-profile"),
    path("profiles/<slug:name>.json", views.profile_file, name="program-profile-file"),
    path("device/<slug:part>/", device_views.device_page, name="program-device"),
    path("device/<slug:part>/presses/", device_views.presses, name="program-presses"),
    path("device/<slug:part>/settings.<slug:kind>", views.settings_file, name="program-settings"),
]
