"""Addresses of the Wire station."""

from django.urls import path

from brightcircuit.wire import views

urlpatterns = [path("", views.wire_page, name="wire"), path("first-light/", views.first_light_page, name="first-light")]
