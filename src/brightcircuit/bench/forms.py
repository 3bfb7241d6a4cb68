"""Forms of the Bench."""

from collections.abc import Sequence
from typing import Any

from django import forms

from brightcircuit.bikes.models import Bike
from brightcircuit.jobs.forms import SymptomFields
from brightcircuit.jobs.services import Beginning
from brightcore.procedure.purpose import DESCRIBED, PURPOSES


class NewJobForm(SymptomFields):
    """A bike of the shop, the complaint, and what was told and seen."""

    bike = forms.ModelChoiceField(Bike.objects.all(), to_field_name="uuid", label="Bike")
    purposes = forms.MultipleChoiceField(
        choices=[(purpose.key, purpose.title) for purpose in PURPOSES],
        required=False,
        label="What it is for",
        widget=forms.CheckboxSelectMultiple,
    )
    described = forms.ChoiceField(
        choices=[("", "as is usual with its purpose"), *DESCRIBED.items()],
        required=False,
        label="The description shows the bike",
        widget=forms.RadioSelect,
    )
    new_parts = forms.MultipleChoiceField(
        required=False, label="New on it, still in the box", widget=forms.CheckboxSelectMultiple
    )
    complaint = forms.CharField(
        max_length=2000,
        label="Complaint, in the rider's words",
        widget=forms.Textarea(attrs={"rows": 3}),
    )

    def __init__(self, *args: Any, parts: Sequence[tuple[str, str]] = (), **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        field = self.fields["new_parts"]
        assert isinstance(field, forms.MultipleChoiceField)
        field.choices = parts

    def beginning(self) -> Beginning:
        """Return what the description is when the job begins."""
        return Beginning(self.cleaned_data["described"], self.cleaned_data["new_parts"])


class ChooseBikeForm(forms.Form):
    """A bike file that comes in with a new job."""

    file = forms.FileField(label="Bike file", help_text="JSON, up to 2 MB")

    def found(self) -> Any:
        """Return the uploaded file."""
        return self.cleaned_data["file"]
