"""Forms of the Trace station. Which fields a test needs depends on its kind."""

from typing import Any

from django import forms

from brightcore.behaviour.vocabulary import OBSERVABLES
from brightcore.bike.model import Bike
from brightcore.tracing.engine import Engine
from brightcore.tracing.evidence import Evidence
from brightcore.tracing.tests import Test

HINTS = {
    "volts": ("V", "4.9, 210 mV"),
    "ohms": ("Ω", "0.3, 4k7, OL"),
    "diode": ("V", "0.52, OL"),
    "swing": ("V", "0.1 to 4.9"),
}


def look_choices(observable: str) -> list[tuple[str, str]]:
    """Return the answers of an observable, "not seen" first."""
    return [("", "did not look"), *OBSERVABLES[observable].classes]


def answers_from_post(test: Test, engine: Engine, data: Any) -> tuple[list[Evidence], dict[str, str]]:
    """Return (evidence, errors by field) of a posted test; nothing is stored here."""
    errors: dict[str, str] = {}
    if test.kind in ("look", "unplug"):
        items = []
        for observable in engine.table.scenes[test.scene].seen:
            value = data.get(f"see-{observable}", "")
            if value:
                items.append(
                    Evidence("look", value, scene=test.scene, observable=observable, sometimes=data.get(f"soft-{observable}") == "on")
                )
        if not items:
            errors["value"] = "Choose at least one thing that you saw."
        return items, errors
    value = data.get("value", "").strip()
    if not value:
        errors["value"] = "Choose an answer." if test.kind in ("inspect", "swap") else "Type the reading."
        return [], errors
    if test.kind in ("inspect", "swap"):
        return [Evidence(test.kind, value, subject=test.subject)], errors
    return [Evidence(test.kind, value, test.condition.id, test.red, test.black)], errors


class FreeReadingForm(forms.Form):
    """A reading at any two points in any state."""

    kind = forms.ChoiceField(choices=(("volts", "Volts"), ("ohms", "Ohms"), ("swing", "Volts, lowest to highest")), label="What")
    condition = forms.ChoiceField(label="State of the bike")
    red = forms.ChoiceField(label="Red probe on")
    black = forms.ChoiceField(label="Black probe on")
    free_value = forms.CharField(max_length=40, label="Reading", help_text="4.9, 210 mV, 4k7, OL, or 0.1 to 4.9")

    def __init__(self, *args: Any, engine: Engine, bike: Bike, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        pins: list[Any] = []
        for part in bike.parts:
            rows = [
                (f"{part.id}.{q.id}.{p.name}", f"{part.name}, {q.label or q.id}: {engine.nets.title(f'{part.id}.{q.id}.{p.name}')}")
                for q in part.ports
                for p in q.pins
            ]
            pins.append((part.name, rows))
        self.fields["red"].choices = self.fields["black"].choices = pins  # type: ignore[attr-defined]
        states = {t.condition.id: ", ".join(t.steps) for t in engine.tests if t.red}
        self.fields["condition"].choices = sorted(states.items(), key=lambda i: (len(i[1]), i[1]))  # type: ignore[attr-defined]
