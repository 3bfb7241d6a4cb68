"""Forms of the shop."""

from collections.abc import Iterator, Mapping
from typing import Any

from django import forms

from brightcircuit.shop.models import Pace, Person
from brightcore.tracing.tests import KINDS, TestKind


class MeterForm(forms.Form):
    """A meter of the shop; to begin with, the figures of a usual handheld one."""

    title = forms.CharField(max_length=60, label="Name of the meter")
    input_mohm = forms.FloatField(label="Input resistance in volts, MΩ", initial=10)
    volts_percent = forms.FloatField(label="Accuracy in volts, %", initial=0.4)
    ohms_percent = forms.FloatField(label="Accuracy in ohms, %", initial=1.5)
    lead_ohm = forms.FloatField(label="Leads, Ω (probes held together)", initial=0.1)
    ohms_v = forms.FloatField(label="Test volts on ohms", initial=0.4)
    diode_v = forms.FloatField(label="Test volts on diode", initial=3.0)

    def figures(self) -> list[float]:
        """Return its figures in the order of `circuit.instruments.LIMITS`."""
        data = self.cleaned_data
        names = ("input_mohm", "volts_percent", "ohms_percent", "lead_ohm", "ohms_v", "diode_v")
        return [data[name] for name in names]


class PacesForm(forms.Form):
    """Minutes of every kind of test against the usual ones, and whether this shop does it."""

    def __init__(self, *args: Any, known: Mapping[str, Pace], **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        for kind in asked_kinds():
            pace = known.get(kind.name)
            self.fields[kind.name] = forms.FloatField(
                label=kind.family,
                initial=pace.factor if pace else 1.0,
                help_text=kind.tool or "hands and eyes",
                widget=forms.NumberInput(attrs={"step": "0.1"}),
            )
            self.fields[f"{kind.name}-done"] = forms.BooleanField(
                required=False, initial=pace.done_here if pace else True, label=f"{kind.family}: done here"
            )

    def rows(self) -> Iterator[tuple[forms.BoundField, forms.BoundField]]:
        """Yield (minutes, done here) of every kind."""
        for kind in asked_kinds():
            yield self[kind.name], self[f"{kind.name}-done"]

    def paces(self) -> dict[str, tuple[float, bool]]:
        """Return (times the usual minutes, whether it is done here) by kind."""
        data = self.cleaned_data
        return {kind.name: (data[kind.name], data[f"{kind.name}-done"]) for kind in asked_kinds()}


def asked_kinds() -> Iterator[TestKind]:
    """Yield the kinds of test that somebody does."""
    return (kind for kind in KINDS if kind.entry != "none")


class PreferencesForm(forms.ModelForm):  # type: ignore[type-arg]
    """A person's own preferences."""

    class Meta:
        model = Person
        fields = ("single_key_shortcuts",)
