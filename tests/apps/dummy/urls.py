"""Addresses of Weigh."""

from django.urls import path

from tests.apps.dummy.views import page

urlpatterns = [path("", page, name="dummy"), path("why/", page, name="dummy-why")]
