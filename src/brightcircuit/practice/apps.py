"""App configuration."""

from django.apps import AppConfig


class PracticeConfig(AppConfig):
    """The app `practice`."""

    name = "brightcircuit.practice"
