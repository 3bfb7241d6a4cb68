"""App configuration."""

from django.apps import AppConfig


class SetConfig(AppConfig):
    """The app `set`."""

    name = "brightcircuit.set"
