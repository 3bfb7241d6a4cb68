"""App configuration."""

from django.apps import AppConfig


class RecordConfig(AppConfig):
    """The app `record`."""

    name = "brightcircuit.record"
