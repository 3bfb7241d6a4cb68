"""App configuration."""

from django.apps import AppConfig


class StationsConfig(AppConfig):
    """The app `stations`: keeps the summaries of jobs current as their engines come along."""

    name = "brightcircuit.stations"

    def ready(self) -> None:
        """Listen to the engines."""
        from brightcircuit.engines.holders import subscribe
        from brightcircuit.stations.summary import refresh_for

        subscribe(refresh_for)
