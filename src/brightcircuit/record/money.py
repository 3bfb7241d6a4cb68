"""Offers to the customer, lines of what was put on a job, and what the shop answers for."""

from datetime import date
from decimal import Decimal

from django.core.exceptions import ValidationError
from django.db import transaction
from django.db.models import F
from django.utils import timezone

from brightcircuit.bikes.models import Bike
from brightcircuit.common.guard import require_open
from brightcircuit.jobs import log
from brightcircuit.jobs.clock import now
from brightcircuit.jobs.models import Job
from brightcircuit.jobs.rows import row_of
from brightcircuit.library.models import StockItem
from brightcircuit.record.models import CostLine, Offer, Warranty
from brightcircuit.record.queries import lines_of, offers_of
from brightcircuit.shop.models import Person
from brightcircuit.shop.people import the_shop
from brightcore.errors import BrightError
from brightcore.procedure.costing import AVAILABLE, KINDS, hours, read_minutes, read_money

MOST_LINES, MOST_OFFERS = 200, 12
MOST_MINUTES = 100_000
MOST_TITLE = 180
"""Signs of an offer's title that its lines on the bill keep, beside what each is for."""


def _amount(field: str, name: str, text: str, most: Decimal = Decimal(1_000_000)) -> Decimal:
    """Return an amount as typed; raises ValidationError at its field."""
    try:
        return read_money(name, text, most)
    except BrightError as error:
        raise ValidationError({field: [str(error)]}) from None


def _minutes(field: str, name: str, text: str) -> int:
    """Return minutes as typed; raises ValidationError at their field."""
    try:
        return round(read_minutes(name, text or "0", MOST_MINUTES))
    except BrightError as error:
        raise ValidationError({field: [str(error)]}) from None


def _rate(minutes: int, typed: dict[str, str]) -> Decimal:
    """Return what an hour of an offer costs: the shop's rate, or what is typed while it has
    none."""
    rate = the_shop().rate
    if rate is not None:
        return rate
    if not minutes:
        return Decimal(0)
    text = typed.get("rate", "").strip()
    if not text:
        # Nothing typed is not nothing asked for.
        raise ValidationError({"rate": ["Say what an hour of labour costs."]})
    return _amount("rate", "Labour for an hour", text, Decimal(10_000))


def _words(text: str, most: int = 200) -> str:
    words = " ".join(text.split())[:most]
    if not words:
        raise ValidationError({"words": ["Say what it is."]})
    return words


@transaction.atomic
def offer(*, actor: Person, job: Job, typed: dict[str, str]) -> Offer:
    """Offer the customer one way to go on."""
    require_open(job, actor)
    if offers_of(job).count() >= MOST_OFFERS:
        raise ValidationError(f"{MOST_OFFERS} offers are the most. Remove one first.")
    minutes = _minutes("minutes", "Minutes", typed.get("minutes", ""))
    available = typed.get("available", "")
    if available and available not in AVAILABLE:
        raise ValidationError({"available": ["Choose one of the list."]})
    made = Offer.objects.create(
        job=job,
        title=_words(typed.get("words", "")),
        parts_cost=_amount("parts", "Parts", typed.get("parts", "")),
        minutes=minutes,
        rate=_rate(minutes, typed),
        available=available,
        note=typed.get("note", "").strip()[:300],
        at=now(),
        by=actor,
        by_name=str(actor),
    )
    log.write(job, actor, "money", f"Offered: {made}, {made.cost}")
    return made


def _offer(job: Job, uuid: str) -> Offer:
    return row_of(offers_of(job), uuid, "That offer is not there any more.")


@transaction.atomic
def remove_offer(*, actor: Person, job: Job, uuid: str) -> None:
    """Take an offer back; it stays in the log."""
    require_open(job, actor)
    found = _offer(job, uuid)
    found.gone, found.chosen = True, False
    found.save(update_fields=["gone", "chosen"])
    log.write(job, actor, "money", f"Offer removed: {found}")


@transaction.atomic
def choose_offer(*, actor: Person, job: Job, uuid: str) -> Offer:
    """Say which offer the customer decided for; it becomes what the customer decided."""
    require_open(job, actor)
    found = _offer(job, uuid)
    job.offers.update(chosen=False)
    found.chosen = True
    found.save(update_fields=["chosen"])
    job.decided = f"{found.title}, {found.cost}"[:1000]
    job.save(update_fields=["decided"])
    log.write(job, actor, "money", f"The customer decided for: {found}, {found.cost}")
    return found


@transaction.atomic
def put_offer_on(*, actor: Person, job: Job) -> Offer:
    """Put what the customer decided for on the job, as it was offered: its parts and its labour.

    Raises ValidationError where nothing was decided, or where it is there already.
    """
    require_open(job, actor)
    found = offers_of(job).filter(chosen=True).first()
    if found is None:
        raise ValidationError("The customer has not decided for an offer yet.")
    if lines_of(job).filter(offer=found).exists():
        raise ValidationError("What was offered is on the job already.")
    title = found.title[:MOST_TITLE]
    lines = []
    if found.parts_cost:
        lines.append(("part", f"{title}: parts", "1", found.parts_cost))
    if found.minutes:
        lines.append(("labour", f"{title}: labour", str(hours(found.minutes)), found.rate))
    for kind, words, count, each in lines:
        typed = {"kind": kind, "words": words, "count": count, "each": str(each)}
        line = add_line(actor=actor, job=job, typed=typed)
        line.offer = found
        line.save(update_fields=["offer"])
    return found


@transaction.atomic
def add_line(*, actor: Person, job: Job, typed: dict[str, str]) -> CostLine:
    """Put a line on a job. A part of the stock list goes off the shelf with it."""
    require_open(job, actor)
    if lines_of(job).count() >= MOST_LINES:
        raise ValidationError(f"{MOST_LINES} lines are the most.")
    count = _amount("count", "Number", typed.get("count", "") or "1", Decimal(10_000))
    if not count:
        raise ValidationError({"count": ["More than none."]})
    item = _stock(typed.get("stock", ""))
    if item is not None:
        _off_the_shelf(item, count)
        kind, words, each = "part", item.name, item.each
    else:
        kind, words = typed.get("kind", ""), _words(typed.get("words", ""))
        each = _amount("each", "One costs", typed.get("each", ""))
    if kind not in KINDS:
        raise ValidationError({"kind": ["Choose one of the list."]})
    made = CostLine.objects.create(
        job=job,
        kind=kind,
        words=words,
        count=count,
        each=each,
        stock=item,
        at=now(),
        by=actor,
        by_name=str(actor),
    )
    log.write(job, actor, "money", f"Put on the job: {count.normalize():f} × {made} at {each}")
    return made


@transaction.atomic
def take_for_bike(actor: Person, bike: Bike, stock: str) -> None:
    """Take one of a stock item onto the bill of the bike's open job.

    Raises ValidationError where there is no such job, or more than one.
    """
    jobs = list(Job.objects.filter(revision__bike=bike, status=Job.Status.OPEN)[:2])
    if not jobs:
        raise ValidationError(
            "No job is open on this bike, so nothing can be billed from the shelf."
        )
    if len(jobs) > 1:
        raise ValidationError(
            "Several jobs are open on this bike: take the part off the shelf on the job's "
            "Costs page."
        )
    add_line(actor=actor, job=jobs[0], typed={"stock": stock, "count": "1"})


def _stock(text: str) -> StockItem | None:
    """Return the stock item of an id, None where none was asked for."""
    if not text:
        return None
    if text.isdecimal():
        found = StockItem.objects.select_for_update().filter(pk=text, retired=False)
    else:
        found = None
    item = found.first() if found is not None else None
    if item is None:
        raise ValidationError({"stock": ["Choose one of the stock list."]})
    return item


def _off_the_shelf(item: StockItem, count: Decimal) -> None:
    if count != count.to_integral_value():
        raise ValidationError({"count": ["Whole pieces only from the stock list."]})
    if count > item.count:
        if item.count <= 0:
            there = "none is"
        else:
            there = f"only {item.count} are"
        raise ValidationError(
            {"count": [f"{item}: {there} on the shelf. Count it on Stock, or type a line."]}
        )
    StockItem.objects.filter(pk=item.pk).update(count=F("count") - int(count))


@transaction.atomic
def undo_line(*, actor: Person, job: Job, uuid: str) -> None:
    """Take a line off a job; what it took from the shelf goes back."""
    require_open(job, actor)
    row = row_of(lines_of(job), uuid, "There is nothing to undo.")
    row.undone = True
    row.save(update_fields=["undone"])
    if row.stock_id:
        StockItem.objects.filter(pk=row.stock_id).update(count=F("count") + int(row.count))
    log.write(job, actor, "money", f"Undone: {row}")


@transaction.atomic
def answer_for(*, actor: Person, job: Job, words: str, until: str, past: bool = False) -> None:
    """Say what the shop answers for after this job, and until when.

    `past`: that the day is over already is meant so. Raises ValidationError at its field.
    """
    require_open(job, actor)
    try:
        day = date.fromisoformat(until) if until else None
    except ValueError:
        raise ValidationError({"until": ["A day such as 2027-03-31."]}) from None
    if day is not None and day < timezone.localdate() and not past:
        raise ValidationError({"until": [f"{day:%-d %B %Y} is over already. Is that meant?"]})
    Warranty.objects.update_or_create(
        job=job, defaults={"words": words.strip()[:500], "until": day}
    )
    log.write(
        job, actor, "money", f"Warranty: {words.strip()[:200]}{f' until {day}' if day else ''}"
    )
