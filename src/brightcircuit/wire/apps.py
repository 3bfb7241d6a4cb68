"""App configuration."""

from django.apps import AppConfig


class WireConfig(AppConfig):
    """The app `wire`."""

    name = "brightcircuit.wire"
