"""Addresses of the Trace station."""

from django.urls import path

from brightcircuit.trace import ahead_views, code_views, hand_views, line_views, past_views, views

urlpatterns = [
    path("", views.trace_page, name="trace"),
    path("more/", views.more_page, name="trace-more"),
    path("flow/", ahead_views.flow_page, name="trace-flow"),
    path("phone/", ahead_views.phone_page, name="trace-phone"),
    path("codes/", code_views.codes_page, name="trace-codes"),
    path("hand/", hand_views.hand_page, name="trace-hand"),
    path("proposals/", past_views.proposals_page, name="trace-proposals"),
    path("progress/", views.progress, name="trace-progress"),
    path("keep/", views.keep, name="trace-keep"),
    path("free/", views.free_reading, name="trace-free"),
    path("confirm/", views.confirm, name="trace-confirm"),
    path("undo/", views.undo, name="trace-undo"),
    path("skip/", views.skip, name="trace-skip"),
    path("described/", line_views.put_on, name="trace-described"),
    path("repair/", views.repair, name="trace-repair"),
    path("proof/", views.proof, name="trace-proof"),
]
