"""What a form sent, to be shown and sent again where it could not be saved."""

from dataclasses import dataclass

from django.http import HttpRequest

UNTYPED = ("csrfmiddlewaretoken", "version", "client", "was")
"""Fields that nobody has typed."""

RENEWED = ("csrfmiddlewaretoken", "version")
"""Fields that a form sent again gets anew."""


@dataclass(frozen=True, slots=True)
class Sent:
    """Fields of a form: those to show, those to send again, and whether there was a file, which
    cannot be."""

    shown: tuple[tuple[str, str], ...] = ()
    again: tuple[tuple[str, str], ...] = ()
    has_file: bool = False


def sent_with(request: HttpRequest) -> Sent:
    """Return what a form sent, without passwords; nothing where no form can be read of the
    request."""
    if request.method != "POST":
        return Sent()
    try:
        fields = []
        for name, texts in request.POST.lists():
            for text in texts:
                fields.append((name, text))
        has_file = bool(request.FILES)
    except Exception:
        return Sent()
    typed = [(name, text) for name, text in fields if "password" not in name]
    return Sent(
        tuple(
            (name.replace("_", " "), text) for name, text in typed if name not in UNTYPED and text
        ),
        tuple((name, text) for name, text in typed if name not in RENEWED),
        has_file,
    )
