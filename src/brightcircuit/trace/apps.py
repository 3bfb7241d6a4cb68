"""App configuration."""

from django.apps import AppConfig


class TraceConfig(AppConfig):
    """The app `trace`."""

    name = "brightcircuit.trace"
