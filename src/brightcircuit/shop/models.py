"""People of the shop."""

from django.contrib.auth.models import AbstractUser
from django.core.validators import MaxValueValidator, MinValueValidator
from django.db import models

from brightcircuit.shop.networks import check_networks


class Role(models.TextChoices):
    """What a person may do. A shop lead may lift a quarantine and waive a danger finding; a learner
    practises, and sees nothing of the shop's bikes and customers."""

    TECHNICIAN = "technician", "Technician"
    LEAD = "lead", "Shop lead"
    LEARNER = "learner", "Learner"


class Meter(models.Model):
    """A meter of the shop, as `circuit.instruments` knows it. A reading keeps its figures by
    `name`."""

    title = models.CharField(max_length=60, unique=True)
    name = models.CharField(max_length=160)
    retired = models.BooleanField(default=False)

    class Meta:
        ordering = ("title",)

    def __str__(self) -> str:
        return self.title


class Receipt(models.Model):
    """A form that came in and was done: its id, whose it was, and where it led. It is not done
    again."""

    client = models.CharField(max_length=64, unique=True)
    person = models.ForeignKey("Person", on_delete=models.CASCADE, related_name="+")
    to = models.CharField(max_length=500)
    at = models.DateTimeField(db_index=True)

    def __str__(self) -> str:
        return self.client


class Pace(models.Model):
    """How long a kind of test takes in this shop against the usual minutes, and whether it is done
    at all."""

    kind = models.CharField(max_length=20, unique=True)
    factor = models.FloatField(default=1.0)
    done_here = models.BooleanField(default=True)

    class Meta:
        ordering = ("kind",)

    def __str__(self) -> str:
        return self.kind


class Shop(models.Model):
    """The one shop of this installation: its name, and what its people and jobs begin with.

    `place`: a key of the places that Match knows, "" for none. `money`: the sign before or after an
    amount.
    """

    name = models.CharField(max_length=80, default="", blank=True)
    place = models.CharField(max_length=60, default="", blank=True)
    time_zone = models.CharField(max_length=64, default="", blank=True)
    units = models.CharField(max_length=10, default="metric")
    money = models.CharField(max_length=8, default="", blank=True)
    rate = models.DecimalField(max_digits=8, decimal_places=2, null=True, blank=True)
    """Labour for an hour, in the shop's money; None where nobody has said."""

    tax_percent = models.DecimalField(
        max_digits=5,
        decimal_places=2,
        null=True,
        blank=True,
        validators=[MinValueValidator(0), MaxValueValidator(100)],
    )
    """Tax that quote and bill show, None for no such line."""

    tax_name = models.CharField(max_length=30, default="Tax", blank=True)
    tax_within = models.BooleanField(default=True)
    """Whether the amounts hold the tax already; else it is added to them."""

    link_networks = models.CharField(
        max_length=200, default="", blank=True, validators=[check_networks]
    )
    """Networks beside private ones in which devices are linked to, as `192.0.2.0/24`."""

    set_choices = models.JSONField(default=dict, blank=True)
    """How instruments of Set judge where a job does not say: {instrument: {option: value}}."""

    def __str__(self) -> str:
        return self.name or "the shop"


class Theme(models.TextChoices):
    """How bright the pages are."""

    SYSTEM = "", "As the device"
    LIGHT = "light", "Light"
    DARK = "dark", "Dark bench"


class Units(models.TextChoices):
    """Units that quantities are shown in; both may be typed anywhere."""

    METRIC = "metric", "Metric: km/h, kg, °C"
    IMPERIAL = "imperial", "Imperial: mph, lb, °F"
    BOTH = "both", "Both, metric first"


class Decimal(models.TextChoices):
    """The mark before decimals."""

    POINT = ".", "4.9 V"
    COMMA = ",", "4,9 V"


class Dates(models.TextChoices):
    """How dates are written."""

    WORDS = "words", "26 Nov 2026"
    ISO = "iso", "2026-11-26"
    DOTS = "dots", "26.11.2026"
    MONTH_FIRST = "month", "Nov 26, 2026"


class TextSize(models.TextChoices):
    """How large the text is."""

    NORMAL = "", "Normal"
    LARGE = "large", "Large"
    LARGEST = "largest", "Largest"


class Person(AbstractUser):
    """A person who signs in. `must_change`: the password was given by somebody else.

    `away_until`: not in the shop up to and including that day.
    """

    role = models.CharField(max_length=20, choices=Role.choices, default=Role.TECHNICIAN)
    meter = models.ForeignKey(
        Meter, on_delete=models.SET_NULL, null=True, blank=True, related_name="+"
    )
    single_key_shortcuts = models.BooleanField("Single-key shortcuts", default=True)
    theme = models.CharField(
        "Brightness", max_length=10, choices=Theme.choices, default="", blank=True
    )
    units = models.CharField("Units", max_length=10, choices=Units.choices, default=Units.METRIC)
    decimal = models.CharField(
        "Decimals", max_length=1, choices=Decimal.choices, default=Decimal.POINT
    )
    dates = models.CharField("Dates", max_length=10, choices=Dates.choices, default=Dates.WORDS)
    text_size = models.CharField(
        "Text", max_length=10, choices=TextSize.choices, default="", blank=True
    )
    must_change = models.BooleanField(default=False)
    away_until = models.DateField("Away until", null=True, blank=True)

    def __str__(self) -> str:
        return self.get_full_name() or self.username

    @property
    def is_lead(self) -> bool:
        """Whether the person has the lead role."""
        return self.role == Role.LEAD

    @property
    def is_learner(self) -> bool:
        """Whether the person only practises."""
        return self.role == Role.LEARNER
