"""Addresses of the library."""

from django.urls import path

from brightcircuit.library import views

urlpatterns = [
    path("", views.library, name="library"),
    path("new/", views.part_new, name="library-new"),
    path("import/", views.take_in_file, name="library-import"),
    path("parts.<str:kind>", views.library_file, name="library-file"),
    path("<slug:slug>/", views.part_page, name="library-part"),
]
