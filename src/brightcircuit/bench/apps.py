"""App configuration."""

from django.apps import AppConfig


class BenchConfig(AppConfig):
    """The app `bench`."""

    name = "brightcircuit.bench"
