"""Addresses of the Arrive station."""

from django.urls import path

from brightcircuit.arrive import views
from brightcircuit.arrive.plan import plan_page

urlpatterns = [
    path("", views.arrive_page, {"page": "arrive"}, name="arrive"),
    path("plan/", plan_page, name="arrive-plan"),
    path("found/", views.arrive_page, {"page": "found"}, name="arrive-found"),
    path("fitted/", views.arrive_page, {"page": "fitted"}, name="arrive-fitted"),
]
