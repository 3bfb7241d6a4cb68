"""Addresses of practice."""

from django.urls import path

from brightcircuit.practice import drill_views, progress_views, views

urlpatterns = [
    path("", views.home, name="practice"),
    path("rounds/<uuid:round_uuid>/", views.bench_page, name="practice-round"),
    path("rounds/<uuid:round_uuid>/debrief/", views.debrief_page, name="practice-debrief"),
    path("rounds/<uuid:round_uuid>/progress/", views.debrief_progress, name="practice-progress-of"),
    path("drills/", drill_views.drills_page, name="practice-drills"),
    path("drills/<slug:topic>/", drill_views.drill_page, name="practice-drill"),
    path("progress/", progress_views.progress_page, name="practice-progress"),
    path("learners/", progress_views.learners_page, name="practice-learners"),
]
