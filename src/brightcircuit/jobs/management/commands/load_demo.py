"""Load the demo world: invented bikes, people and jobs, readings made by the simulator."""

from typing import Any

from django.core.management.base import BaseCommand

from brightcircuit.demo.load import load_demo


class Command(BaseCommand):
    """Load the demo data once; changes made later are kept."""

    help = "Load the demo data into an empty database."

    def handle(self, *args: Any, **options: Any) -> None:
        self.stdout.write("Demo data loaded." if load_demo() else "Demo data is there already.")
