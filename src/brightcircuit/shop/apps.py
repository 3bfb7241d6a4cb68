"""App configuration."""

from django.apps import AppConfig


class ShopConfig(AppConfig):
    """The app `shop`."""

    name = "brightcircuit.shop"

    def ready(self) -> None:
        """Have forms speak as the pages do."""
        from brightcircuit.common.messages import use_plain_words

        use_plain_words()
