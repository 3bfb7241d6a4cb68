"""Addresses of the shop app."""

from django.urls import path

from brightcircuit.shop import people_views, views

urlpatterns = [
    path("", views.preferences, name="preferences"),
    path("tests/", views.tests, name="shop-tests"),
    path("meters/", views.meters, name="meters"),
    path("password/", people_views.password, name="password"),
    path("people/", people_views.people, name="people"),
    path("shop/", people_views.shop_page, name="shop"),
]
