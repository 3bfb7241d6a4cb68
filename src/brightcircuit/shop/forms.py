"""Forms of the shop."""

from collections.abc import Iterator, Mapping
from typing import Any

from django import forms
from django.conf import settings
from django.core.exceptions import ValidationError

from brightcircuit.common.legal import known_places
from brightcircuit.shop.models import Pace, Person, Role, Shop, Units
from brightcircuit.shop.people import OF_THE_SHOP
from brightcircuit.shop.services import OWN
from brightcircuit.shop.zones import zone_by
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
                required=False,
                initial=pace.done_here if pace else True,
                label=f"{kind.family}: done here",
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
        fields = OWN


def _hidden(autocomplete: str, keeps: bool = False) -> forms.PasswordInput:
    """Return a password field; `keeps`: what was typed stays where something else was wrong."""
    return forms.PasswordInput(attrs={"autocomplete": autocomplete}, render_value=keeps)


def password_rule() -> str:
    """Return what a password must be, in words, as the settings have it."""
    least = settings.SHORTEST_PASSWORD
    return f"{least} signs or more, not like the name, no usual one such as password1234"


class TwicePassword(forms.Form):
    """A new password, typed twice."""

    password = forms.CharField(
        label="Password",
        help_text=password_rule(),
        strip=False,
        widget=_hidden("new-password", keeps=True),
    )
    again = forms.CharField(
        label="The same again",
        strip=False,
        widget=_hidden("new-password", keeps=True),
    )

    def clean(self) -> dict[str, Any]:
        """Both must be the same."""
        data = super().clean() or {}
        if data.get("password") and data.get("again") and data["password"] != data["again"]:
            self.add_error("again", "The two passwords differ.")
        return data


class FirstLeadForm(TwicePassword):
    """The first shop lead of a new shop."""

    field_order = ("code", "name", "password", "again")
    name = forms.CharField(max_length=150, label="Your name, to sign in with")
    code = forms.CharField(
        max_length=40,
        label="Code",
        help_text="printed where the server was started",
        required=False,
    )

    def __init__(self, *args: Any, needs_code: bool, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        if not needs_code:
            del self.fields["code"]


class NewPersonForm(forms.Form):
    """Somebody who works here."""

    name = forms.CharField(max_length=150, label="Name, to sign in with")
    role = forms.ChoiceField(choices=Role.choices, initial=Role.TECHNICIAN, label="Role")
    password = forms.CharField(
        label="Password to begin with",
        help_text=f"{password_rule()}. Told in person; changed at the first sign-in",
        strip=False,
    )


class PasswordForm(TwicePassword):
    """A new password of one's own."""

    field_order = ("old", "password", "again")
    old = forms.CharField(label="Present password", strip=False, widget=_hidden("current-password"))


class ShopForm(forms.ModelForm):  # type: ignore[type-arg]
    """What is known of the shop."""

    units = forms.ChoiceField(choices=Units.choices, label="Units for new people")

    class Meta:
        model = Shop
        fields = OF_THE_SHOP
        labels = {
            "name": "Name of the shop",
            "place": "Place whose law applies",
            "time_zone": "Time zone",
            "money": "Money",
            "rate": "Labour for an hour",
            "tax_percent": "Tax on quote and bill, %",
            "tax_name": "What it is called there",
            "tax_within": "amounts hold it already; else it is added",
            "link_networks": "More networks with devices",
        }
        widgets = {
            "time_zone": forms.TextInput(attrs={"list": "zones"}),
            "place": forms.TextInput(attrs={"list": "places"}),
        }
        help_texts = {
            "place": "choose one of the list",
            "time_zone": "type a city",
            "money": "a sign such as €",
            "rate": "the only rate: Match, quotes and bills reckon with it",
            "tax_percent": "empty for no such line",
            "link_networks": "only for a link to devices outside private networks, as 192.0.2.0/24",
        }

    def clean_time_zone(self) -> str:
        """The zone of a city, or of its own name."""
        return zone_by(str(self.cleaned_data["time_zone"]))

    def clean_place(self) -> str:
        """Only a place of which there are classes: any other would have no law at all."""
        place = str(self.cleaned_data["place"]).strip()
        known = {name.casefold(): name for name in known_places()}
        if place and place.casefold() not in known:
            raise ValidationError(
                f"Nothing is known of {place!r}. Known are {', '.join(known.values())}; others "
                "come with a classes.yaml of the shop's own."
            )
        return known.get(place.casefold(), "")
