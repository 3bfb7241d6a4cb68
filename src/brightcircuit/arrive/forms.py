"""Forms of the Arrive station."""

from collections.abc import Mapping
from typing import Any

from django import forms

from brightcircuit.arrive.questions import Question
from brightcircuit.jobs.forms import SymptomFields


class TriageForm(forms.Form):
    """Six questions about each pack, yes or no each."""

    def __init__(
        self,
        data: Mapping[str, Any] | None,
        answers: dict[str, bool | None],
        asked: tuple[Question, ...],
    ) -> None:
        words = {True: "yes", False: "no", None: ""}
        self.asked = asked
        super().__init__(
            data, initial={question.key: words[answers.get(question.key)] for question in asked}
        )
        for question in asked:
            self.fields[question.key] = forms.ChoiceField(
                choices=(("no", "No"), ("yes", "Yes")),
                label=question.text,
                required=True,
                widget=forms.RadioSelect,
                error_messages={"required": "Answer yes or no."},
            )

    def answers(self) -> dict[str, bool]:
        """Return the answers as flags."""
        return {question.key: self.cleaned_data[question.key] == "yes" for question in self.asked}

    def by_pack(self) -> list[tuple[str, list[forms.BoundField]]]:
        """Return (name of the pack, its fields); the name is "" where there is only one pack."""
        names = dict.fromkeys(question.pack for question in self.asked)
        found: list[tuple[str, list[forms.BoundField]]] = []
        for name in names:
            found.append((name, [self[q.key] for q in self.asked if q.pack == name]))
        return found


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
