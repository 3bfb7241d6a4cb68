"""App configuration."""

from django.apps import AppConfig


class MatchConfig(AppConfig):
    """The app `match`."""

    name = "brightcircuit.match"
