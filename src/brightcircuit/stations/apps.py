"""App configuration."""

from django.apps import AppConfig


class StationsConfig(AppConfig):
    """The app `stations`: keeps the summaries of jobs current as their engines come along."""

    name = "brightcircuit.stations"

    def ready(self) -> None:
        """Listen to the engines, and have the stations asked before powered acts."""
        from brightcircuit.engines.holders import subscribe
        from brightcircuit.jobs.safety import ask_also
        from brightcircuit.stations.registry import station_blocks
        from brightcircuit.stations.summary import refresh_for

        subscribe(refresh_for)
        ask_also(station_blocks)
