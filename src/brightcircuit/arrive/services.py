"""Changes at arrival."""

from collections.abc import Mapping, Sequence

from django.db import transaction

from brightcircuit.arrive.models import CIRCUMSTANCES, WIRES, Arrival
from brightcircuit.arrive.questions import Question, first_asked, packs_asked, questions
from brightcircuit.common.guard import Stale, require_open
from brightcircuit.jobs import log, quarantine
from brightcircuit.jobs.models import Job
from brightcircuit.jobs.services import keep_past
from brightcircuit.jobs.way import plan_of
from brightcircuit.shop.models import Person
from brightcore.bike.model import Part
from brightcore.kinds.pack import PackSpec


def _arrival(job: Job, actor: Person) -> Arrival:
    require_open(job, actor)
    return Arrival.objects.select_for_update().get(job=job)


@transaction.atomic
def answer_triage(
    *,
    actor: Person,
    job: Job,
    answers: Mapping[str, bool | None],
    note: str | None = None,
    note_was: str | None = None,
) -> None:
    """Store the answers about the pack. Any new yes begins a quarantine; a no does not end one.

    `note_was` is the note that a new one was based on; raises Stale where another stands there now.
    """
    arrival = _arrival(job, actor)
    if note is not None and note_was is not None and arrival.note not in (note_was, note):
        raise Stale
    changed = [
        question
        for question in questions(job)
        if answers.get(question.key) is not None
        and answers[question.key] != arrival.triage.get(question.key)
    ]
    arrival.triage = {
        **arrival.triage,
        **{question.key: answers[question.key] for question in changed},
    }
    said = [question.words for question in changed if answers[question.key]]
    if said:
        arrival.lifted_reason, arrival.lifted_by = "", ""
        quarantine.begin(job, actor, said, _packs_of(job, changed, answers))
    if note is not None and note != arrival.note:
        arrival.note = note
        log.write(job, actor, "arrival", f"Noted: {note}")
    arrival.triage_pack = arrival.triage_pack or first_asked(job)
    arrival.save()
    for question in changed:
        answer = "YES" if answers[question.key] else "no"
        log.write(job, actor, "triage", f"{question.pack or 'Pack'}: {question.text} {answer}")


def _packs_of(
    job: Job, changed: Sequence[Question], answers: Mapping[str, bool | None]
) -> list[Part[PackSpec]]:
    """Return the packs that a question was answered with yes about."""
    found = []
    for pack in packs_asked(job):
        for question in changed:
            own = question.key.rpartition(".")[0] or first_asked(job)
            if answers[question.key] and own == pack.id and pack not in found:
                found.append(pack)
    return found


@transaction.atomic
def note_found(
    *,
    actor: Person,
    job: Job,
    circumstances: list[str],
    wires: list[str],
    places: Mapping[str, str] | None = None,
) -> None:
    """Store under what circumstances it happened, and the condition of wires and plugs, each at its
    place.

    Both move the ranking of Trace. `places`: id of the plug at which one of `wires` was seen.
    """
    arrival = _arrival(job, actor)
    found = []
    for field, chosen, known in (
        ("circumstances", circumstances, dict(CIRCUMSTANCES)),
        ("wires", wires, dict(WIRES)),
    ):
        kept = [name for name in known if name in chosen]
        if kept != getattr(arrival, field):
            setattr(arrival, field, kept)
            found.append(f"{field}: {', '.join(known[name].lower() for name in kept) or 'none'}")
    known_places = {join.id for join in plan_of(job).joins}
    arrival.wire_places = {
        name: place
        for name, place in (places or {}).items()
        if name in arrival.wires and place in known_places
    }
    arrival.save()
    past = dict.fromkeys(arrival.circumstances, "")
    keep_past(
        actor=actor,
        job=job,
        found=past | {w: arrival.wire_places.get(w, "") for w in arrival.wires},
    )
    if found:
        log.write(job, actor, "arrival", f"Found at arrival, {'; '.join(found)}")


@transaction.atomic
def lift_quarantine(*, actor: Person, job: Job, reason: str) -> None:
    """Lift the quarantine of a pack; only a shop lead, only with a reason."""
    quarantine.lift(actor=actor, job=job, reason=reason)
    arrival = _arrival(job, actor)
    arrival.lifted_reason, arrival.lifted_by = reason.strip(), str(actor)
    arrival.save()
