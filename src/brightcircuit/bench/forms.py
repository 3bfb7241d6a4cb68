"""Forms of the Bench."""

from typing import Any

from django import forms

from brightcircuit.bikes.models import Bike
from brightcircuit.bikes.queries import offered
from brightcircuit.jobs.forms import SymptomFields


class NewJobForm(SymptomFields):
    """A bike of the shop or a bike file, the complaint, confirmed symptoms."""

    find = forms.CharField(required=False, max_length=120, label="Find a bike by name or frame number")
    bike = forms.ModelChoiceField(
        Bike.objects.all(),
        required=False,
        empty_label=None,
        to_field_name="uuid",
        label="Bike",
    )
    file = forms.FileField(required=False, label="Or a bike file", help_text="JSON, up to 2 MB")
    complaint = forms.CharField(
        max_length=2000, label="Complaint, in the rider's words", widget=forms.Textarea(attrs={"rows": 3})
    )

    def clean(self) -> dict[str, Any]:
        """A bike must come from one place."""
        data = super().clean() or {}
        if bool(data.get("bike")) == bool(data.get("file")):
            self.add_error("bike", "Choose a bike of the shop, or a bike file — one of the two.")
        return data

    def bikes(self) -> list[tuple[Bike, bool]]:
        """Return (bike, whether it is chosen) to choose from."""
        return offered(str(self["find"].value() or ""), str(self["bike"].value() or ""))
