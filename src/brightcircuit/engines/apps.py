"""App configuration."""

from django.apps import AppConfig


class EnginesConfig(AppConfig):
    """The app `engines`."""

    name = "brightcircuit.engines"
