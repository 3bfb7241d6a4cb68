"""Addresses of the shop app."""

from django.urls import path

from brightcircuit.shop import views

urlpatterns = [
    path("", views.preferences, name="preferences"),
    path("tests/", views.tests, name="shop-tests"),
    path("meters/", views.meters, name="meters"),
]
