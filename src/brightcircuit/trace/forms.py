"""Forms of the Trace station. Which fields a test needs is told by its kind."""

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from django import forms

from brightcore.behaviour.vocabulary import OBSERVABLES
from brightcore.bike.model import Bike
from brightcore.tracing.engine import Engine
from brightcore.tracing.evidence import Evidence
from brightcore.tracing.tests import KINDS, Test, kind_of

Choices = list[tuple[str, str]]


def look_choices(observable: str) -> Choices:
    """Return the answers of an observable, "not seen" first."""
    return [("", "did not look"), *OBSERVABLES[observable].classes]


def answers_from_post(
    test: Test, engine: Engine, data: Mapping[str, str]
) -> tuple[list[Evidence], dict[str, str]]:
    """Return (evidence, errors by field) of a posted test; nothing is stored here."""
    kind = kind_of(test.kind)
    if kind.entry == "looks":
        items = _looks(test, engine, data)
        return items, {} if items else {"value": "Choose at least one thing that you saw."}
    value = data.get("value", "").strip()
    if value:
        return list(kind.read(test, value)), {}
    return [], {"value": "Choose an answer." if kind.entry == "choice" else "Type the reading."}


def _looks(test: Test, engine: Engine, data: Mapping[str, str]) -> list[Evidence]:
    """Return what was chosen of everything that a scene shows."""
    found = []
    for observable in engine.table.scenes[test.scene].seen:
        value = data.get(f"see-{observable}", "")
        if value:
            soft = data.get(f"soft-{observable}") == "on"
            (item,) = kind_of(test.kind).read(test, f"{observable}={value}")
            found.append(replace(item, sometimes=soft))
    return found


class FreeReadingForm(forms.Form):
    """A reading at any two points in any state. `again` asks what to do with the same one read
    before."""

    again = ""

    kind = forms.ChoiceField(choices=[(k.name, k.free) for k in KINDS if k.free], label="What")
    condition = forms.ChoiceField(label="State of the bike")
    red = forms.ChoiceField(label="Red probe on")
    black = forms.ChoiceField(label="Black probe on")
    free_value = forms.CharField(
        max_length=40, label="Reading", help_text="4.9, 210 mV, 4k7, OL, or 0.1 to 4.9"
    )

    def __init__(self, *args: Any, engine: Engine, bike: Bike, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        pins = _pin_choices(engine, bike)
        states = {test.condition.id: ", ".join(test.steps) for test in engine.tests if test.red}
        self._offer("red", pins)
        self._offer("black", pins)
        self._offer("condition", sorted(states.items(), key=lambda item: (len(item[1]), item[1])))

    def _offer(self, name: str, choices: Any) -> None:
        field = self.fields[name]
        assert isinstance(field, forms.ChoiceField)
        field.choices = choices


def _pin_choices(engine: Engine, bike: Bike) -> list[tuple[str, Choices]]:
    """Return every pin of a bike in words, grouped by part."""
    groups = []
    for part in bike.parts:
        rows = []
        for port in part.ports:
            for pin in port.pins:
                name = f"{part.id}.{port.id}.{pin.name}"
                rows.append(
                    (name, f"{part.name}, {port.label or port.id}: {engine.nets.title(name)}")
                )
        groups.append((part.name, rows))
    return groups
