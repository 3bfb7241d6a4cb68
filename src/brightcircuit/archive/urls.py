"""Addresses of the archive."""

from django.urls import path

from brightcircuit.archive.views import archive_file

urlpatterns = [path("", archive_file, name="archive")]
