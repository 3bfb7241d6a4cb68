"""Networks as a lead types them."""

from ipaddress import IPv4Network

from django.core.exceptions import ValidationError


def read_networks(text: str) -> tuple[IPv4Network, ...]:
    """Return networks as typed (`192.0.2.0/24`, by spaces or commas). Raises ValidationError that
    names the one that is none."""
    found = []
    for word in text.replace(",", " ").split():
        try:
            found.append(IPv4Network(word, strict=False))
        except ValueError:
            raise ValidationError(f"{word!r} is no network: write 192.0.2.0/24.") from None
    return tuple(found)


def check_networks(text: str) -> None:
    """Raise ValidationError where a text names something that is no network."""
    read_networks(text)
