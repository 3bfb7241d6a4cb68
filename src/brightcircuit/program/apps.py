"""App configuration."""

from django.apps import AppConfig


class ProgramConfig(AppConfig):
    """The app `program`."""

    name = "brightcircuit.program"
