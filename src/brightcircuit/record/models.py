"""What a job costs: offers before it, and what was put on it."""

import uuid
from decimal import Decimal

from django.db import models

from brightcircuit.jobs.models import Job
from brightcircuit.jobs.rows import Signed, Standing
from brightcircuit.library.models import StockItem
from brightcore.procedure.costing import AVAILABLE, KINDS, Line, offer_cost


class Offer(Signed):
    """One way to go on that was offered to the customer; `chosen`: the one that was decided for."""

    job = models.ForeignKey(Job, on_delete=models.PROTECT, related_name="offers")
    uuid = models.UUIDField(default=uuid.uuid4, unique=True, editable=False)
    title = models.CharField(max_length=200)
    parts_cost = models.DecimalField(max_digits=10, decimal_places=2)
    minutes = models.PositiveIntegerField()
    rate = models.DecimalField(max_digits=8, decimal_places=2)
    available = models.CharField(max_length=20, blank=True)
    note = models.CharField(max_length=300, blank=True)
    chosen = models.BooleanField(default=False)
    gone = models.BooleanField(default=False)

    def __str__(self) -> str:
        return self.title

    @property
    def cost(self) -> Decimal:
        """Parts and labour together."""
        return offer_cost(self.parts_cost, self.rate, self.minutes)

    @property
    def available_words(self) -> str:
        """Whether its parts stay to be had, in words."""
        return AVAILABLE.get(self.available, "")


class LetGo(Signed):
    """Something that was open when a job was closed, and why a shop lead let it go; it is told to
    the rider."""

    job = models.ForeignKey(Job, on_delete=models.PROTECT, related_name="let_go")
    key = models.CharField(max_length=500)
    station = models.CharField(max_length=20)
    words = models.CharField(max_length=500)
    reason = models.CharField(max_length=500)

    def __str__(self) -> str:
        return f"{self.words}: {self.reason}"


class CostLine(Standing):
    """One line of what was put on a job. Undone lines stay; a stock item went off the shelf with
    its line. `offer`: what the customer decided for, where the line is of that."""

    job = models.ForeignKey(Job, on_delete=models.PROTECT, related_name="cost_lines")
    uuid = models.UUIDField(default=uuid.uuid4, unique=True, editable=False)
    kind = models.CharField(max_length=10, choices=list(KINDS.items()))
    words = models.CharField(max_length=200)
    count = models.DecimalField(max_digits=8, decimal_places=2)
    each = models.DecimalField(max_digits=10, decimal_places=2)
    stock = models.ForeignKey(StockItem, on_delete=models.PROTECT, null=True, blank=True)
    offer = models.ForeignKey(
        Offer, on_delete=models.SET_NULL, null=True, blank=True, related_name="lines"
    )

    def __str__(self) -> str:
        return self.words

    @property
    def line(self) -> Line:
        """The line as it is reckoned with."""
        return Line(self.kind, self.words, self.count, self.each)


class Warranty(models.Model):
    """What the shop answers for after a job, and until when."""

    job = models.OneToOneField(Job, on_delete=models.PROTECT, related_name="warranty")
    words = models.CharField(max_length=500, blank=True)
    until = models.DateField(null=True, blank=True)

    def __str__(self) -> str:
        return self.words
