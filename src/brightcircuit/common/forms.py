"""Forms that several pages use."""

from django import forms


class ImportForm(forms.Form):
    """A file to take in. Size is checked before it is read."""

    file = forms.FileField(label="File", help_text="Up to 2 MB")
