"""Addresses of bikes."""

from django.urls import path

from brightcircuit.bikes import describe_views, views

urlpatterns = [
    path("", views.bike_list, name="bikes"),
    path("new/", describe_views.new_bike, name="bike-new"),
    path("import/", views.bike_import, name="bike-import"),
    path("first/", views.first_bikes, name="bikes-first"),
    path("list/", views.list_import, name="bike-list-import"),
    path("<uuid:bike_uuid>/", views.bike_page, name="bike"),
    path("<uuid:bike_uuid>/bike.json", views.bike_file, name="bike-file"),
    path("<uuid:bike_uuid>/describe/", describe_views.describe, name="describe"),
    path(
        "<uuid:bike_uuid>/describe/<slug:part_id>/",
        describe_views.describe_part,
        name="describe-part",
    ),
    path("<uuid:bike_uuid>/compare/", describe_views.compare_page, name="bike-compare"),
    path("<uuid:bike_uuid>/label/", describe_views.label, name="bike-label"),
    path("<uuid:bike_uuid>/contact/", describe_views.contact, name="bike-contact"),
    path("<uuid:bike_uuid>/restore/", views.restore, name="bike-restore"),
    path("<uuid:bike_uuid>/line.svg", views.bike_line, name="bike-line"),
]
