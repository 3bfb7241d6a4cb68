"""Addresses of the Prove station."""

from django.urls import path

from brightcircuit.prove import views
from brightcircuit.prove.ride_views import rides_page

urlpatterns = [
    path("", views.prove_page, name="prove"),
    path("rides/", rides_page, name="prove-rides"),
]
