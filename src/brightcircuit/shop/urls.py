"""Addresses of the shop app."""

from django.urls import path

from brightcircuit.shop import views

urlpatterns = [
    path("", views.preferences, name="preferences"),
    path("meters/", views.meters, name="meters"),
]
