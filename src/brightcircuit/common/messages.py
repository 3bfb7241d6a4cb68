"""The framework's own messages, in plain words."""

from django import forms
from django.core import validators


def use_plain_words() -> None:
    """Have every form say what is wrong as the pages do."""
    forms.Field.default_error_messages["required"] = "Fill this in."
    forms.ChoiceField.default_error_messages["invalid_choice"] = "Choose one of the list."
    forms.ModelChoiceField.default_error_messages["invalid_choice"] = "Choose one of the list."
    forms.FileField.default_error_messages["required"] = "Choose a file."
    forms.FileField.default_error_messages["empty"] = "That file is empty."
    validators.MaxLengthValidator.message = (
        "At most %(limit_value)d characters; this has %(show_value)d."
    )
