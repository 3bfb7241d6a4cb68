"""Fields about a job that several pages ask."""

from collections.abc import Mapping
from typing import Any

from django import forms

from brightcircuit.jobs.services import Symptoms
from brightcore.behaviour.scene import Scene
from brightcore.tracing.context import TOLD
from brightcore.tracing.states import AGAIN, STATES
from brightcore.tracing.symptoms import SYMPTOMS, applicable

ANSWERS = (
    ("", "not asked"),
    ("no", "no"),
    ("yes", "yes"),
    ("sometimes", "sometimes"),
    ("now", "seen here"),
)
WHEN = (("", "at any time"), *((state.id, state.told) for state in STATES if state.id != AGAIN))
ALSO = tuple((name, leaning.words) for name, leaning in TOLD.items())

LIKELY_FIRST = 7
"""So many symptoms stand open, the commonest; the others are folded in."""


class SymptomFields(forms.Form):
    """One field per symptom: not asked, told as no, yes or sometimes, or seen here; when, and what
    else.

    With the `scenes` of a bike, only what that bike can show is asked.
    """

    def __init__(
        self, *args: Any, scenes: Mapping[str, Scene] | None = None, **kwargs: Any
    ) -> None:
        super().__init__(*args, **kwargs)
        self.asked = SYMPTOMS if scenes is None else applicable(scenes)
        for symptom in self.asked:
            self.fields[f"symptom-{symptom.id}"] = forms.ChoiceField(
                choices=ANSWERS,
                required=False,
                label=symptom.words,
                initial="",
                widget=forms.RadioSelect,
            )
        self.fields["when"] = forms.ChoiceField(
            choices=WHEN,
            required=False,
            label="When does it happen?",
            help_text="only if the rider knows",
        )
        self.fields["also"] = forms.MultipleChoiceField(
            choices=ALSO, required=False, label="Also told", widget=forms.CheckboxSelectMultiple
        )

    def symptoms(self) -> Symptoms:
        """Return what was told and seen."""
        answers = {s.id: self.cleaned_data.get(f"symptom-{s.id}") for s in self.asked}
        when = self.cleaned_data.get("when", "")
        told = {name: answer == "sometimes" or bool(when) for name, answer in answers.items()}
        return Symptoms(
            {name: soft for name, soft in told.items() if answers[name] in ("yes", "sometimes")},
            tuple(name for name, answer in answers.items() if answer == "now"),
            when,
            tuple(self.cleaned_data.get("also", ())),
            tuple(name for name, answer in answers.items() if answer == "no"),
        )

    def _fields(self) -> list[forms.BoundField]:
        return [self[f"symptom-{s.id}"] for s in self.asked]

    def likely_fields(self) -> list[forms.BoundField]:
        """Return the bound fields of the commonest symptoms."""
        return self._fields()[:LIKELY_FIRST]

    def other_fields(self) -> list[forms.BoundField]:
        """Return the bound fields of the rest."""
        return self._fields()[LIKELY_FIRST:]

    def others_said(self) -> bool:
        """Return whether something was answered among the rest."""
        return any(field.value() for field in self.other_fields())
