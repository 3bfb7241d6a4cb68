"""Reading what a job costs: its offers, what was put on it, what the shop answers for."""

from collections.abc import Iterable
from decimal import Decimal

from django.db.models import QuerySet

from brightcircuit.jobs.models import Job
from brightcircuit.library.models import StockItem
from brightcircuit.record.models import CostLine, Offer, Warranty
from brightcircuit.shop.people import the_shop
from brightcore.procedure.costing import Tally, Tax, Taxed, tally, taxed


def offers_of(job: Job) -> QuerySet[Offer]:
    """Return the offers that were not taken back."""
    return Offer.objects.filter(job=job, gone=False)


def lines_of(job: Job) -> QuerySet[CostLine]:
    """Return the lines that stand on a job."""
    return CostLine.objects.filter(job=job, undone=False)


def tally_of(lines: Iterable[CostLine]) -> Tally:
    """Return what lines come to."""
    return tally(row.line for row in lines)


def tax_of(amount: Decimal) -> tuple[Tax, Taxed] | None:
    """Return the shop's tax and what it makes of an amount, None for a shop that shows none."""
    shop = the_shop()
    if shop.tax_percent is None:
        return None
    tax = Tax(shop.tax_name or "Tax", shop.tax_percent, shop.tax_within)
    return tax, taxed(amount, tax)


def warranty_of(job: Job) -> Warranty | None:
    """Return what the shop answers for, None where nobody has said."""
    return Warranty.objects.filter(job=job).first()


def stock_items() -> QuerySet[StockItem]:
    """Return what is on the stock list now."""
    return StockItem.objects.filter(retired=False)
