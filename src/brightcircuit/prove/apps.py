"""App configuration."""

from django.apps import AppConfig


class ProveConfig(AppConfig):
    """The app `prove`."""

    name = "brightcircuit.prove"
