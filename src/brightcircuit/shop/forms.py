"""Forms of the shop."""

from django import forms

from brightcircuit.shop.models import Person


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


class PreferencesForm(forms.ModelForm):  # type: ignore[type-arg]
    """A person's own preferences."""

    class Meta:
        model = Person
        fields = ("single_key_shortcuts",)
