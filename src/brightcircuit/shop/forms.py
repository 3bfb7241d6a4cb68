"""Forms of the shop."""

from django import forms

from brightcircuit.shop.models import Person


class PreferencesForm(forms.ModelForm):  # type: ignore[type-arg]
    """A person's own preferences."""

    class Meta:
        model = Person
        fields = ("single_key_shortcuts",)
