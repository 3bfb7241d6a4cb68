"""Fields about a job that several pages ask."""

from typing import Any

from django import forms

from brightcircuit.jobs.services import Symptoms
from brightcore.tracing.context import TOLD
from brightcore.tracing.states import AGAIN, STATES
from brightcore.tracing.symptoms import SYMPTOMS

ANSWERS = (
    ("", "not said"),
    ("yes", "told: always"),
    ("sometimes", "told: sometimes"),
    ("now", "seen here"),
)
WHEN = (("", "at any time"), *((state.id, state.told) for state in STATES if state.id != AGAIN))
ALSO = tuple((name, leaning.words) for name, leaning in TOLD.items())


class SymptomFields(forms.Form):
    """One field per symptom: not said, told, told as coming and going, seen here; and when, and what else."""

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        for symptom in SYMPTOMS:
            self.fields[f"symptom-{symptom.id}"] = forms.ChoiceField(
                choices=ANSWERS, required=False, label=symptom.words
            )

        self.fields["when"] = forms.ChoiceField(
            choices=WHEN, required=False, label="When does it happen?", help_text="only if the rider knows"
        )
        self.fields["also"] = forms.MultipleChoiceField(
            choices=ALSO, required=False, label="Also told", widget=forms.CheckboxSelectMultiple
        )

    def symptoms(self) -> Symptoms:
        """Return what was told and seen."""
        answers = {s.id: self.cleaned_data.get(f"symptom-{s.id}") for s in SYMPTOMS}
        when = self.cleaned_data.get("when", "")
        told = {name: answer == "sometimes" or bool(when) for name, answer in answers.items()}
        return Symptoms(
            {name: soft for name, soft in told.items() if answers[name] in ("yes", "sometimes")},
            tuple(name for name, answer in answers.items() if answer == "now"),
            when,
            tuple(self.cleaned_data.get("also", ())),
        )

    def symptom_fields(self) -> list[forms.BoundField]:
        """Return the bound symptom fields."""
        return [self[f"symptom-{s.id}"] for s in SYMPTOMS]
