"""Addresses of the Match station."""

from django.urls import path

from brightcircuit.match import views

urlpatterns = [
    path("", views.section_page, {"section": "chain"}, name="match"),
    path("ride/", views.section_page, {"section": "ride"}, name="match-ride"),
    path("curves/", views.section_page, {"section": "curves"}, name="match-curves"),
    path("class/", views.section_page, {"section": "class"}, name="match-class"),
    path("packs/", views.section_page, {"section": "packs"}, name="match-packs"),
    path("cost/", views.section_page, {"section": "cost"}, name="match-cost"),
    path("space/", views.space_page, name="space"),
]
