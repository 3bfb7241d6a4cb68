"""Practice of the demo world: a learner with two cases and some drills behind, and homework."""

from datetime import timedelta

from django.utils import timezone

from brightcircuit.practice.models import Round
from brightcircuit.practice.services import answer, begin_graded, do_act, end, give_homework
from brightcircuit.shop.models import Person, Role
from brightcore.practice.drills import DRILLS, question

PLAYED = (
    ("03", ("wheel|to=up", "power|to=on", "power|to=out", "repair|repair=part:lever_left"), "done"),
    ("02", ("power|to=on", "watch|scene=throttle", "plug|join=j6", "power|to=out"), "gave-up"),
)
"""A case solved, and one with two careless acts given up: their debriefs are worked out when looked
at."""


def practice_demo(lead: Person, password: str) -> None:
    """Add a learner, what the learner has done, and homework."""
    learner = Person.objects.create_user(
        "finch", password=password, first_name="L.", last_name="Finch", role=Role.LEARNER
    )
    for key, acts, how in PLAYED:
        row = begin_graded(actor=learner, key=key)
        for text in acts:
            _do(learner, row, text)
        end(actor=learner, row=row, how=how)
    for n, drill in enumerate(DRILLS[:6]):
        asked = question(drill, str(n))
        said = list(asked.answer)
        if n == 2:
            said = [next(c for c, _ in asked.choices if c not in asked.answer)]
        answer(actor=learner, topic=drill.key, seed=str(n), said=said)
    give_homework(
        actor=lead,
        title="Second week: cut-offs and halls",
        codes=["graded.05", "hub-conversion.bar.4F7K2M"],
        topics=["halls", "never"],
        due=timezone.localdate() + timedelta(days=4),
        people=[learner],
    )


def _do(learner: Person, row: Round, text: str) -> None:
    key, *told = text.split("|")
    said = dict(item.partition("=")[::2] for item in told)
    do_act(actor=learner, row=row, key=key, said=said, version=row.version)
