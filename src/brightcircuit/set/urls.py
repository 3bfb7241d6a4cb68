"""Addresses of the Set station."""

from django.urls import path

from brightcircuit.set import views

urlpatterns = [
    path("", views.bench_row_page, name="set"),
    path("<slug:key>/<slug:subject>/", views.instrument_page, name="set-instrument"),
]
