"""Addresses of the library."""

from django.urls import path

from brightcircuit.library import views
from brightcircuit.library.stock import stock_page

urlpatterns = [
    path("", views.library, name="library"),
    path("new/", views.part_new, name="library-new"),
    path("import/", views.take_in_file, name="library-import"),
    path("parts.<str:kind>", views.library_file, name="library-file"),
    path("stock/", stock_page, name="stock"),
    path("<slug:slug>/", views.part_page, name="library-part"),
]
