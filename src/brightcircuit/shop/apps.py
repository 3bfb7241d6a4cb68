"""App configuration."""

from django.apps import AppConfig


class ShopConfig(AppConfig):
    """The app `shop`."""

    name = "brightcircuit.shop"
