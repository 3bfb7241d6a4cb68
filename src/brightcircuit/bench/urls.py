"""Addresses of the Bench and of jobs as a whole."""

from django.urls import path

from brightcircuit.bench import views
from brightcircuit.bench.day import day_page
from brightcircuit.bench.find import find_page
from brightcircuit.bench.history import history_page
from brightcircuit.bench.numbers import numbers_page
from brightcircuit.bench.photos import photo, photo_add, photo_delete

urlpatterns = [
    path("bikes/<uuid:bike_uuid>/history/", history_page, name="bike-history"),
    path("", views.bench_page, name="bench"),
    path("find/", find_page, name="find"),
    path("numbers/", numbers_page, name="numbers"),
    path("day/", day_page, name="day"),
    path("jobs/new/", views.new_job, name="job-new"),
    path("jobs/import/", views.job_import, name="job-import"),
    path("jobs/<uuid:job_uuid>/", views.job_page, name="job"),
    path("jobs/<uuid:job_uuid>/hand-over/", views.hand_over_page, name="job-hand-over"),
    path("jobs/<uuid:job_uuid>/photos/<uuid:photo_uuid>.jpg", photo, name="photo"),
    path("jobs/<uuid:job_uuid>/photos/", photo_add, name="photo-add"),
    path(
        "jobs/<uuid:job_uuid>/photos/<uuid:photo_uuid>/delete/", photo_delete, name="photo-delete"
    ),
    path("jobs/<uuid:job_uuid>/shape/<str:shape_id>/", views.shape_page, name="job-shape"),
]
