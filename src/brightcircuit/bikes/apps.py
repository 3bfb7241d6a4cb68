"""App configuration."""

from django.apps import AppConfig


class BikesConfig(AppConfig):
    """The app `bikes`."""

    name = "brightcircuit.bikes"
