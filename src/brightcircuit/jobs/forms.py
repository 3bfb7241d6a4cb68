"""Fields about a job that several pages ask."""

from typing import Any

from django import forms

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
