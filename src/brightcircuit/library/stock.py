"""The stock list: what is on the shelf to be put on jobs."""

from collections.abc import Mapping

from django.contrib import messages
from django.core.exceptions import ValidationError
from django.db import transaction
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render

from brightcircuit.common.actor import actor
from brightcircuit.common.permissions import require_active
from brightcircuit.common.posted import status_of
from brightcircuit.library.models import StockItem
from brightcircuit.shop.models import Person
from brightcircuit.shop.people import the_shop
from brightcore.errors import BrightError
from brightcore.procedure.costing import read_money

MOST_PIECES = 100_000


def _whole(name: str, text: str) -> int:
    raw = text.strip() or "0"
    if not raw.isdecimal() or int(raw) > MOST_PIECES:
        raise ValidationError(f"{name}: a whole number up to {MOST_PIECES}.")
    return int(raw)


@transaction.atomic
def keep_item(*, actor: Person, values: Mapping[str, str]) -> StockItem:
    """Add something to the list, or correct what is on it; raises ValidationError naming the
    field."""
    require_active(actor)
    name = " ".join(values.get("name", "").split())[:120]
    if not name:
        raise ValidationError("Name: say what it is.")
    try:
        each = read_money("One costs", values.get("each", ""))
    except BrightError as error:
        raise ValidationError(str(error)) from None
    pk = values.get("item", "")
    if pk.isdecimal():
        item = StockItem.objects.filter(pk=pk).first()
    else:
        item = StockItem()
    if item is None:
        raise ValidationError("That is not on the list any more.")
    if StockItem.objects.filter(name__iexact=name).exclude(pk=item.pk).exists():
        raise ValidationError(f"Name: {name} is on the list already.")
    item.name, item.each = name, each
    item.number = values.get("number", "").strip()[:60]
    item.count, item.least = (
        _whole("There", values.get("count", "")),
        _whole("Least", values.get("least", "")),
    )
    item.retired = values.get("retired") == "on"
    item.save()
    return item


def stock_page(request: HttpRequest) -> HttpResponse:
    """Show the stock list, what runs short first; add and correct."""
    error = ""
    if request.method == "POST":
        try:
            item = keep_item(actor=actor(request), values=request.POST.dict())
            messages.success(request, f"Saved: {item}.")
            return redirect("stock")
        except ValidationError as refused:
            error = refused.messages[0]
    asked = request.GET.get("item", "")
    rows = sorted(
        StockItem.objects.all(), key=lambda row: (row.retired, not row.is_short, row.name.lower())
    )
    chosen = next((row for row in rows if str(row.pk) == asked), None)
    context = {
        "rows": rows,
        "item": chosen,
        "error": error,
        "typed": request.POST,
        "shop": the_shop(),
    }
    return render(request, "library/stock.html", context, status=status_of(error))
