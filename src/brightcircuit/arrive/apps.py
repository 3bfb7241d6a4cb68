"""App configuration."""

from django.apps import AppConfig


class ArriveConfig(AppConfig):
    """The app `arrive`."""

    name = "brightcircuit.arrive"
