"""Beginning a case, doing an act, ending it; answering drills; giving homework."""

import secrets
import threading
from collections.abc import Sequence
from datetime import date
from functools import lru_cache

from django.core.exceptions import PermissionDenied, ValidationError
from django.db import IntegrityError, transaction
from django.utils import timezone

from brightcircuit.common.permissions import require_lead, require_signed_in
from brightcircuit.practice.models import Answer, Homework, Round, Topic
from brightcircuit.practice.translate import (
    acted_document,
    case_of,
    revision_of,
    state_of,
)
from brightcircuit.shop.models import Person
from brightcore.errors import BrightError
from brightcore.practice.acts import Done, act_of
from brightcore.practice.case import Case, new_seed, read_code
from brightcore.practice.drills import Question, drill_of, question
from brightcore.practice.graded import graded
from brightcore.practice.hidden import hidden_bike
from brightcore.practice.play import STILL, play_of, step
from brightcore.practice.repeat import Box, answered
from brightcore.practice.score import Acted
from brightcore.practice.sorts import BY_KEY as SORT
from brightcore.practice.standing import at_first
from brightcore.practice.state import State
from brightcore.practice.words import complaint_words

MOST_ACTS = 300
ENDS = ("done", "gave-up")
GRADED = "graded."
SEEDS = 32**6


@lru_cache(maxsize=64)
def _bench_of(case: Case) -> threading.Lock:
    """Return the lock of a case: a hidden bike answers for one act at a time, and is shared by all
    who play its case. Other cases go on meanwhile."""
    return threading.Lock()


def begin(*, actor: Person, bike: str, sort: str, seed: str = "") -> Round:
    """Begin a case; raises ValidationError by field for what there is not."""
    require_signed_in(actor)
    if sort not in SORT:
        raise ValidationError({"sort": ["Choose what may be wrong."]})
    try:
        revision = revision_of(bike)
        if revision is not None and actor.is_learner:
            raise PermissionDenied("A learner practises on the bikes that ship.")
        made = Round(
            person=actor,
            bike=bike,
            revision=revision,
            sort=sort,
            seed=seed or new_seed(secrets.randbelow(SEEDS)),
        )
        return _begun(made)
    except BrightError as error:
        raise ValidationError({"bike": [_sentence(str(error))]}) from None


def begin_by_code(*, actor: Person, text: str) -> Round:
    """Begin the case of a code, of this copy or another one; raises ValidationError."""
    require_signed_in(actor)
    if text.strip().startswith(GRADED):
        return begin_graded(actor=actor, key=text.strip().removeprefix(GRADED))
    try:
        code = read_code(text)
    except BrightError as error:
        raise ValidationError({"code": [_sentence(str(error))]}) from None
    try:
        return begin(actor=actor, bike=code.bike, sort=code.sort, seed=code.seed)
    except ValidationError as error:
        words = "; ".join(error.messages)
        raise ValidationError(
            {"code": [f"{words} A bike of a shop goes with its file first."]}
        ) from None


def begin_graded(*, actor: Person, key: str) -> Round:
    """Begin one of the graded cases, or the guided one."""
    require_signed_in(actor)
    try:
        item = graded(key)
        return _begun(
            Round(person=actor, bike=item.bike, sort="anything", seed="GRADED", graded=item.key)
        )
    except BrightError as error:
        raise ValidationError({"code": [_sentence(str(error))]}) from None


def _begun(made: Round) -> Round:
    """Store a round with what its rider says."""
    case = case_of(made)
    with _bench_of(case):
        hidden = hidden_bike(case)
        made.complaint = complaint_words(hidden)
        made.state = at_first(hidden).document()
    made.save()
    return made


def do_act(*, actor: Person, row: Round, key: str, said: dict[str, str], version: int) -> Done:
    """Do one act of a round; raises ValidationError for what cannot be done, or was done
    meanwhile."""
    _require_own(actor, row)
    if row.version != version:
        raise ValidationError("Something was done here meanwhile, in another window: look again.")
    if len(row.acts) >= MOST_ACTS:
        raise ValidationError(f"{MOST_ACTS} acts are the most. Hand it over, or give up.")
    case = case_of(row)
    play, state = play_of(case), state_of(row)
    try:
        with _bench_of(case):
            choices = []
            for choice in act_of(key).choices(play, state):
                if dict(choice.said) == said:
                    choices.append(choice)
            done = step(play, state, key, said)
    except BrightError as error:
        raise ValidationError(_sentence(str(error))) from None
    if done.refused:
        raise ValidationError(done.refused)
    if choices:
        title = choices[0].words
    else:
        title = _title(key, state)
    if key == "measure":
        title = (
            f"{state.mode.capitalize()} from {_pin(state.red)} (red) to {_pin(state.black)} (black)"
        )
    acted = Acted(
        title,
        done.words,
        done.minutes,
        done.evidence,
        done.hazard,
        said.get("repair", ""),
        done.cost,
    )
    text = " ".join(f"{name}={value}" for name, value in said.items())
    if key in STILL:
        acts = row.acts
    else:
        acts = [*row.acts, acted_document(acted, key, text)]
    with transaction.atomic():
        changed = Round.objects.filter(pk=row.pk, version=version, ended=None).update(
            state=done.state.document(), acts=acts, version=version + 1
        )
        if not changed:
            raise ValidationError(
                "Something was done here meanwhile, in another window: look again."
            )
    row.refresh_from_db()
    return done


def _pin(name: str) -> str:
    """Return a pin as it is called in the log: plug and pin."""
    _, port, pin = name.split(".")
    return f"{port.replace('_', ' ')} {pin.replace('_', ' ')}"


def _title(key: str, state: State) -> str:
    return {"measure": "Read the meter", "bridge": "Bridge the two pins, fused"}.get(key, key)


@transaction.atomic
def end(*, actor: Person, row: Round, how: str, cause: str = "") -> None:
    """Hand the bike over as good, or give up; what it was is then told."""
    _require_own(actor, row)
    if how not in ENDS:
        raise ValidationError("Hand it over, or give up.")
    state = state_of(row).document() | {"ended": how}
    Round.objects.filter(pk=row.pk, ended=None).update(
        state=state, cause=cause.strip()[:300], ended=timezone.now(), version=row.version + 1
    )
    row.refresh_from_db()


def _require_own(actor: Person, row: Round) -> None:
    require_signed_in(actor)
    if row.person_id != actor.pk:
        raise PermissionDenied("That is somebody else's case.")
    if row.ended:
        raise ValidationError("This case has ended: play it again, or another one.")


def topic_question(topic: str, seed: str) -> Question:
    """Return the question of a topic and a seed; raises ValidationError."""
    try:
        return question(drill_of(topic), seed)
    except BrightError as error:
        raise ValidationError(_sentence(str(error))) from None


@transaction.atomic
def answer(*, actor: Person, topic: str, seed: str, said: Sequence[str]) -> bool:
    """Answer a question once; returns whether it was right. Raises ValidationError for what is no
    answer."""
    require_signed_in(actor)
    asked = topic_question(topic, seed)
    try:
        right = asked.judge(said)
    except BrightError as error:
        raise ValidationError(_sentence(str(error))) from None
    try:
        with transaction.atomic():
            Answer.objects.create(person=actor, topic=topic, seed=seed[:20], right=right)
    except IntegrityError:
        return right
    row, _ = Topic.objects.select_for_update().get_or_create(person=actor, topic=topic)
    moved = answered(Box(row.box, row.due), right, timezone.localdate())
    row.box, row.due = moved.box, moved.due
    row.save(update_fields=["box", "due"])
    return right


@transaction.atomic
def give_homework(
    *,
    actor: Person,
    title: str,
    codes: Sequence[str],
    topics: Sequence[str],
    due: date,
    people: Sequence[Person],
) -> Homework:
    """Give cases and drills to people, to be done by a day; raises ValidationError by field."""
    require_lead(actor)
    if not title.strip():
        raise ValidationError({"title": ["Give it a name."]})
    if not people:
        raise ValidationError({"people": ["Choose who it is for."]})
    if not (codes or topics):
        raise ValidationError({"codes": ["Give a case or a drill."]})
    for text in codes:
        try:
            if text.startswith(GRADED):
                graded(text.removeprefix(GRADED))
            else:
                read_code(text)
        except BrightError as error:
            raise ValidationError({"codes": [_sentence(str(error))]}) from None
    for topic in topics:
        topic_question(topic, "0")
    made = Homework.objects.create(
        title=title.strip()[:120], codes=list(codes), topics=list(topics), due=due, by=actor
    )
    made.people.set(people)
    return made


@transaction.atomic
def remove_homework(*, actor: Person, row: Homework) -> None:
    """Take homework back; what was done of it stays with who did it."""
    require_lead(actor)
    row.gone = True
    row.save(update_fields=["gone"])


def _sentence(words: str) -> str:
    return f"{words[0].upper()}{words[1:]}".rstrip(".") + "."
