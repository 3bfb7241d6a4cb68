"""Addresses of the Wire station."""

from django.urls import path

from brightcircuit.wire import views

urlpatterns = [
    path("", views.wire_page, name="wire"),
    path("first-light/", views.first_light_page, name="first-light"),
    path("order/", views.order_page, name="wire-order"),
    path("sheet/", views.sheet_page, name="wire-sheet"),
    path("plugs.svg", views.sheet_svg, name="wire-svg"),
    path("joins.csv", views.joins_csv, name="wire-csv"),
]
