"""Addresses of bikes."""

from django.urls import path

from brightcircuit.bikes import views

urlpatterns = [
    path("", views.bike_list, name="bikes"),
    path("import/", views.bike_import, name="bike-import"),
    path("<uuid:bike_uuid>/", views.bike_page, name="bike"),
    path("<uuid:bike_uuid>/bike.json", views.bike_file, name="bike-file"),
    path("<uuid:bike_uuid>/line.svg", views.bike_line, name="bike-line"),
]
