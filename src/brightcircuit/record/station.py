"""Record in the registry of stations."""

from collections.abc import Sequence
from datetime import date

from django.core.exceptions import ValidationError

from brightcircuit.engines.belief import JobTrace
from brightcircuit.jobs.models import Job, Repair
from brightcircuit.jobs.repairs import is_proved
from brightcircuit.record.help import HELP
from brightcircuit.record.models import CostLine, LetGo, Offer, Warranty
from brightcircuit.record.money import add_line
from brightcircuit.record.queries import lines_of, offers_of, warranty_of
from brightcircuit.shop.models import Person
from brightcircuit.stations.registry import Restoring, Section, Station, station_done
from brightcircuit.stations.whats_open import whats_open
from brightcore.formats.job_schema import REPAIR_TEXTS
from brightcore.formats.plain import JsonObject
from brightcore.procedure.next_thing import NextThing, close


def next_thing(job: Job, found: JobTrace) -> NextThing | None:
    """A job whose work is proven is closed, once nothing is open on it; until then the first open
    thing comes."""
    if not (is_proved(job) or station_done(job, "prove")):
        return None
    left = whats_open(job)
    if not left:
        return close()
    if len(left) > 1:
        more = f"{len(left)} things are open before the job closes."
    else:
        more = "Then the job closes."
    return NextThing("station", left[0].station, left[0].words, more)


def answers_until(job: Job) -> date | None:
    """Return the day to which the shop answers for a job, None where nobody has said."""
    said = warranty_of(job)
    if said is not None:
        return said.until
    return None


def left_open(job: Job) -> list[str]:
    """Return what was let go when a job closed, and why."""
    return [str(row) for row in LetGo.objects.filter(job=job)]


def take_over(
    *, actor: Person, job: Job, key: str, subject: str, typed: dict[str, str], ticked: Sequence[str]
) -> None:
    """Take a part off the shelf onto the bill of a job: what another station has fitted."""
    if key != "stock":
        raise ValidationError("Record takes parts off the shelf alone.")
    add_line(actor=actor, job=job, typed={"stock": subject, "count": typed.get("count", "1")})


def export(job: Job) -> JsonObject:
    """Return repairs, proofs and how the job was closed."""
    return {
        "repairs": [_repair(repair) for repair in job.repairs.all()],
        "close_reason": job.close_reason,
        "conclusion": job.conclusion,
        **_money(job),
    }


def _money(job: Job) -> JsonObject:
    """Return offers, costs and warranty, where there are any; amounts as texts, to the cent."""
    found: JsonObject = {
        "offers": [
            {
                "title": row.title,
                "parts_cost": str(row.parts_cost),
                "minutes": row.minutes,
                "rate": str(row.rate),
                "available": row.available,
                "note": row.note,
                "chosen": row.chosen,
                "at": row.at.isoformat(),
                "by": row.by_name,
            }
            for row in offers_of(job)
        ],
        "costs": [
            {
                "kind": row.kind,
                "words": row.words,
                "count": str(row.count),
                "each": str(row.each),
                "at": row.at.isoformat(),
                "by": row.by_name,
            }
            for row in lines_of(job)
        ],
    }
    warranty = warranty_of(job)
    if warranty is not None and (warranty.words or warranty.until):
        if warranty.until:
            until = warranty.until.isoformat()
        else:
            until = ""
        found["warranty"] = {"words": warranty.words, "until": until}
    return {name: value for name, value in found.items() if value}


def _restore_money(restoring: Restoring) -> None:
    """Store offers, costs and warranty of another shop; its shelf is not ours."""
    head, dates = restoring.head, restoring.dates
    for i, raw in enumerate(head.get("offers", [])):
        values = {k: v for k, v in raw.items() if k not in ("at", "by")}
        at = dates[f"$.job.offers[{i}].at"]
        Offer.objects.create(job=restoring.job, at=at, **values, **restoring.who(raw))
    for i, raw in enumerate(head.get("costs", [])):
        values = {k: v for k, v in raw.items() if k not in ("at", "by")}
        at = dates[f"$.job.costs[{i}].at"]
        CostLine.objects.create(
            job=restoring.job, at=at, imported=True, **values, **restoring.who(raw)
        )
    said = head.get("warranty")
    if said:
        if said.get("until"):
            until = date.fromisoformat(said["until"])
        else:
            until = None
        Warranty.objects.create(job=restoring.job, words=said.get("words", ""), until=until)


def _repair(repair: Repair) -> JsonObject:
    texts = {name: getattr(repair, name) for name in REPAIR_TEXTS}
    own = {
        "round": repair.round,
        "proof": repair.proof,
        "by": repair.by_name,
        "at": repair.at.isoformat(),
    }
    return texts | own


def restore(restoring: Restoring) -> None:
    """Store the repairs."""
    for i, raw in enumerate(restoring.head.get("repairs", [])):
        texts = {name: raw.get(name, "") for name in REPAIR_TEXTS}
        Repair.objects.create(
            job=restoring.job,
            round=raw["round"],
            proof=raw["proof"],
            imported=True,
            at=restoring.dates[f"$.job.repairs[{i}].at"],
            **restoring.who(raw),
            **texts,
        )
    _restore_money(restoring)


STATION = Station(
    help=HELP,
    key="record",
    name="Record",
    shortcut="e",
    done=lambda job: not job.is_open,
    sections=(
        Section("Shop's sheet", "record"),
        Section("Rider's sheet", "record-rider"),
        Section("Quote", "record-quote"),
        Section("Costs", "record-costs"),
    ),
    next_thing=next_thing,
    take_over=take_over,
    answers_until=answers_until,
    left_open=left_open,
    export=export,
    restore=restore,
    log_words={
        "closed": "job closed",
        "reopened": "job reopened",
        "opened": "job opened",
        "revision": "moved to the newest description",
        "imported": "from a file",
        "money": "offer, cost line or warranty",
    },
)
