"""Forms of jobs."""

from typing import Any

from django import forms

from brightcircuit.bikes.models import Bike
from brightcore.tracing.symptoms import SYMPTOMS

ANSWERS = (("", "not said"), ("yes", "yes"), ("sometimes", "sometimes"))


class SymptomFields(forms.Form):
    """One field per symptom: not said, yes, sometimes."""

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        for symptom in SYMPTOMS:
            self.fields[f"symptom-{symptom.id}"] = forms.ChoiceField(
                choices=ANSWERS, required=False, label=symptom.words
            )

    def symptoms(self) -> dict[str, bool]:
        """Return the confirmed symptoms: id → only sometimes."""
        answers = ((s.id, self.cleaned_data.get(f"symptom-{s.id}")) for s in SYMPTOMS)
        return {symptom_id: answer == "sometimes" for symptom_id, answer in answers if answer}

    def symptom_fields(self) -> list[forms.BoundField]:
        """Return the bound symptom fields."""
        return [self[f"symptom-{s.id}"] for s in SYMPTOMS]


class NewJobForm(SymptomFields):
    """A bike of the shop or a bike file, the complaint, confirmed symptoms."""

    bike = forms.ModelChoiceField(
        Bike.objects.all(),
        required=False,
        empty_label=None,
        to_field_name="uuid",
        widget=forms.RadioSelect,
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
