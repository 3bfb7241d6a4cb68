"""App configuration."""

from django.apps import AppConfig


class RecordConfig(AppConfig):
    """The app `record`."""

    name = "brightcircuit.record"

    def ready(self) -> None:
        """Let what comes off the shelf on the describing pages go on the bill of the bike's open
        job."""
        from brightcircuit.bikes.services import take_parts
        from brightcircuit.record.money import take_for_bike

        take_parts(take_for_bike)
