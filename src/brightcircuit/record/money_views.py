"""Quote and costs of a job."""

import uuid
from decimal import Decimal

from django.contrib import messages
from django.core.exceptions import ValidationError
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone

from brightcircuit.common.posted import Act, Posted, act_on, as_typed, status_of
from brightcircuit.engines.paper import make_ready
from brightcircuit.jobs.models import Job
from brightcircuit.jobs.queries import whole_job
from brightcircuit.jobs.stale import changing
from brightcircuit.record import money, queries
from brightcircuit.record.facts import done_words
from brightcircuit.record.models import Offer
from brightcircuit.record.pdf import pdf_of
from brightcircuit.record.proposals import proposals_of
from brightcircuit.shop.people import the_shop
from brightcircuit.stations.frame import job_frame
from brightcircuit.stations.registry import labour_of
from brightcore.procedure.costing import AVAILABLE, KINDS, Proposal, hours

Errors = dict[str, list[str]]


def quote_page(request: HttpRequest, job_uuid: uuid.UUID) -> HttpResponse:
    """Show what was offered to the customer, and offer more."""
    job = changing(request, job_uuid)
    errors: Errors = {}
    if request.method == "POST":
        try:
            posted = Posted(request)
            messages.success(request, act_on(OFFER_ACTS, posted.text("do"), posted, job))
            return redirect("record-quote", job.uuid)
        except ValidationError as error:
            errors = _by_field(error)
    proposals = proposals_of(job)
    # A proposal is told without labour as long as nobody has said what an hour costs.
    rate = the_shop().rate or Decimal(0)
    context = {
        "offers": queries.offers_of(job),
        "proposals": [(n, row, row.cost(rate)) for n, row in enumerate(proposals)],
        "typed": request.POST if errors else _filled(request, proposals),
        "available": AVAILABLE.items(),
        "errors": errors,
        "shop": the_shop(),
    }
    page = {**job_frame(job, "record"), **context}
    make_ready()
    return render(request, "record/quote.html", page, status=status_of(errors))


def _filled(request: HttpRequest, proposals: list[Proposal]) -> dict[str, str]:
    """Return the form as the chosen proposal fills it."""
    wanted = request.GET.get("like", "")
    if not wanted.isdecimal() or int(wanted) >= len(proposals):
        return {}
    row = proposals[int(wanted)]
    return {
        "words": row.title,
        "parts": str(row.parts_cost),
        "minutes": str(row.minutes),
        "available": row.available,
        "note": row.note,
    }


def _choose(posted: Posted, job: Job) -> str:
    made = money.choose_offer(actor=posted.who, job=job, uuid=posted.text("uuid"))
    return f"The customer decided for: {made}."


def _remove(posted: Posted, job: Job) -> str:
    money.remove_offer(actor=posted.who, job=job, uuid=posted.text("uuid"))
    return "Removed; it stays in the log."


def _offer(posted: Posted, job: Job) -> str:
    money.offer(actor=posted.who, job=job, typed=posted.all())
    return "Offered."


OFFER_ACTS: dict[str, Act[Job]] = {"choose": _choose, "remove": _remove, "": _offer}
"""Every act of the quote, by the word that its form sends; a new offer sends none."""


def costs_page(request: HttpRequest, job_uuid: uuid.UUID) -> HttpResponse:
    """Show what was put on a job, with sums; put more on it."""
    job = changing(request, job_uuid)
    errors: Errors = {}
    if request.method == "POST":
        try:
            posted = Posted(request)
            messages.success(request, act_on(COST_ACTS, posted.text("do"), posted, job))
            return redirect("record-costs", job.uuid)
        except ValidationError as error:
            errors = _by_field(error)
    lines, rate = queries.lines_of(job), the_shop().rate
    stood = {row.words for row in lines if row.kind == "labour"}
    labour = [(words, round(m), hours(m)) for words, m in labour_of(job) if words not in stood]
    tally = queries.tally_of(lines)
    context = {
        "lines": lines,
        "tally": tally,
        "tax": queries.tax_of(tally.total),
        "decided": _decided(job),
        "labour": labour,
        "stock": queries.stock_items(),
        "kinds": KINDS.items(),
        "warranty": queries.warranty_of(job),
        "typed": as_typed(request, errors),
        "errors": errors,
        "rate": rate,
        "shop": the_shop(),
    }
    page = {**job_frame(job, "record"), **context}
    make_ready()
    return render(request, "record/costs.html", page, status=status_of(errors))


def _decided(job: Job) -> Offer | None:
    """Return the offer that the customer decided for, None where it is on the job already."""
    chosen = queries.offers_of(job).filter(chosen=True).first()
    if chosen is None or queries.lines_of(job).filter(offer=chosen).exists():
        return None
    return chosen


def quote_pdf(request: HttpRequest, job_uuid: uuid.UUID) -> HttpResponse:
    """Download what was offered as a PDF for the customer."""
    job = get_object_or_404(whole_job(job_uuid))
    context = {"offers": queries.offers_of(job), "shop": the_shop(), "on": timezone.localdate()}
    return pdf_of(request, job, "record/quote_sheet.html", context, "quote")


def bill_pdf(request: HttpRequest, job_uuid: uuid.UUID) -> HttpResponse:
    """Download what was put on a job, with its sums, as a PDF for the customer."""
    job = get_object_or_404(whole_job(job_uuid))
    lines = queries.lines_of(job)
    tally = queries.tally_of(lines)
    context = {
        "lines": lines,
        "tally": tally,
        "tax": queries.tax_of(tally.total),
        "done": done_words(job),
        "warranty": queries.warranty_of(job),
        "shop": the_shop(),
        "on": timezone.localdate(job.closed) if job.closed else timezone.localdate(),
    }
    return pdf_of(request, job, "record/bill_sheet.html", context, "bill")


def _undo(posted: Posted, job: Job) -> str:
    money.undo_line(actor=posted.who, job=job, uuid=posted.text("uuid"))
    return "Undone."


def _warranty(posted: Posted, job: Job) -> str:
    words, until = posted.text("words"), posted.text("until")
    money.answer_for(actor=posted.who, job=job, words=words, until=until, past=posted.has("past"))
    return "Saved."


def _add(posted: Posted, job: Job) -> str:
    made = money.add_line(actor=posted.who, job=job, typed=posted.all())
    return f"On the job: {made}."


def _put_offer_on(posted: Posted, job: Job) -> str:
    made = money.put_offer_on(actor=posted.who, job=job)
    return f"On the job, as it was offered: {made}."


COST_ACTS: dict[str, Act[Job]] = {
    "undo": _undo,
    "warranty": _warranty,
    "offer": _put_offer_on,
    "": _add,
}
"""Every act of the costs, by the word that its form sends; a new line sends none."""


def _by_field(error: ValidationError) -> Errors:
    if hasattr(error, "error_dict"):
        return error.message_dict
    return {"": error.messages}
