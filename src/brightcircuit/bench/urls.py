"""Addresses of the Bench and of jobs as a whole."""

from django.urls import path

from brightcircuit.bench import views

urlpatterns = [
    path("", views.bench_page, name="bench"),
    path("jobs/new/", views.new_job, name="job-new"),
    path("jobs/import/", views.job_import, name="job-import"),
    path("jobs/<uuid:job_uuid>/", views.job_page, name="job"),
    path("jobs/<uuid:job_uuid>/shape/<str:shape_id>/", views.shape_page, name="job-shape"),
]
