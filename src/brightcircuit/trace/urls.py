"""Addresses of the Trace station."""

from django.urls import path

from brightcircuit.trace import views

urlpatterns = [
    path("", views.trace_page, name="trace"),
    path("more/", views.more_page, name="trace-more"),
    path("progress/", views.progress, name="trace-progress"),
    path("keep/", views.keep, name="trace-keep"),
    path("free/", views.free_reading, name="trace-free"),
    path("undo/", views.undo, name="trace-undo"),
    path("skip/", views.skip, name="trace-skip"),
    path("repair/", views.repair, name="trace-repair"),
    path("proof/", views.proof, name="trace-proof"),
]
