"""Forms of the Bench."""

from typing import Any

from django import forms

from brightcircuit.bikes.models import Bike
from brightcircuit.jobs.forms import SymptomFields
from brightcore.procedure.purpose import PURPOSES


class NewJobForm(SymptomFields):
    """A bike of the shop, the complaint, and what was told and seen."""

    bike = forms.ModelChoiceField(Bike.objects.all(), to_field_name="uuid", label="Bike")
    purposes = forms.MultipleChoiceField(
        choices=[(purpose.key, purpose.title) for purpose in PURPOSES],
        required=False,
        initial=["repair"],
        label="What it is for",
        widget=forms.CheckboxSelectMultiple,
    )
    complaint = forms.CharField(
        max_length=2000, label="Complaint, in the rider's words", widget=forms.Textarea(attrs={"rows": 3})
    )


class ChooseBikeForm(forms.Form):
    """A bike file that comes in with a new job."""

    file = forms.FileField(label="Bike file", help_text="JSON, up to 2 MB")

    def found(self) -> Any:
        """Return the uploaded file."""
        return self.cleaned_data["file"]
