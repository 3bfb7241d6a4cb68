"""Addresses of the Match station."""

from django.urls import path

from brightcircuit.match import views

urlpatterns = [
    path("", views.match_page, name="match"),
    path("space/", views.space_page, name="space"),
]
