"""App configuration."""

from django.apps import AppConfig


class LibraryConfig(AppConfig):
    """The app `library`."""

    name = "brightcircuit.library"
