"""Forms of the Arrive station."""

from collections.abc import Mapping
from typing import Any

from django import forms

from brightcircuit.arrive.models import TRIAGE
from brightcircuit.jobs.forms import SymptomFields


class TriageForm(forms.Form):
    """Six questions about the pack, yes or no each."""

    def __init__(self, data: Mapping[str, Any] | None, answers: dict[str, bool | None]) -> None:
        words = {True: "yes", False: "no", None: ""}
        initial = {name: words[answers.get(name)] for name, _ in TRIAGE}
        super().__init__(data, initial=initial)
        for name, question in TRIAGE:
            self.fields[name] = forms.ChoiceField(
                choices=(("no", "No"), ("yes", "Yes")),
                label=question,
                required=True,
                widget=forms.RadioSelect,
                error_messages={"required": "Answer yes or no."},
            )

    def answers(self) -> dict[str, bool]:
        """Return the answers as flags."""
        return {name: self.cleaned_data[name] == "yes" for name, _ in TRIAGE}


class NoteForm(forms.Form):
    """What was found at arrival, free text."""

    note = forms.CharField(
        required=False,
        max_length=4000,
        label="Found at arrival",
        help_text="Cuts, water, crushed cables, loose plugs, what others did to it",
        widget=forms.Textarea(attrs={"rows": 4}),
    )


class SymptomForm(SymptomFields):
    """More symptoms, confirmed later."""
