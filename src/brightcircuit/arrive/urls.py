"""Addresses of the Arrive station."""

from django.urls import path

from brightcircuit.arrive import views

urlpatterns = [
    path("", views.arrive_page, name="arrive"),
    path("photos/<uuid:photo_uuid>.jpg", views.photo, name="photo"),
]
