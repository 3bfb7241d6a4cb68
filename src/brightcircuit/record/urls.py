"""Addresses of the Record station."""

from django.urls import path

from brightcircuit.record import views

urlpatterns = [
    path("", views.record_page, name="record"),
    path("rider/", views.rider_page, name="record-rider"),
    path("job.json", views.job_file, name="record-job"),
    path("readings.csv", views.readings_csv, name="record-csv"),
    path("line.svg", views.line_file, name="record-line"),
]
