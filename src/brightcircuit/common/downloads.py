"""Files that go out."""

from django.http import HttpResponse


def download(content: str | bytes, content_type: str, name: str) -> HttpResponse:
    """Return text or bytes as a file to save."""
    safe = "".join(c if c.isalnum() or c in "-._ " else "-" for c in name)
    plain = isinstance(content, bytes)
    response = HttpResponse(
        content, content_type=content_type if plain else f"{content_type}; charset=utf-8"
    )
    response["Content-Disposition"] = f'attachment; filename="{safe}"'
    return response
