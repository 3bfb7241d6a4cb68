"""Reading practice: what is due, what was done, how it goes."""

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date

from django.db.models import Q, QuerySet

from brightcircuit.practice.models import Answer, Homework, Round, Topic
from brightcircuit.shop.models import Person, Role
from brightcore.practice.drills import DRILLS
from brightcore.practice.graded import GRADED
from brightcore.practice.repeat import Box

MOST_ROUNDS = 60


@dataclass(frozen=True, slots=True)
class TopicRow:
    """One topic of a learner: how many answers were right of how many, and whether it is due."""

    key: str
    title: str
    right: int
    asked: int
    box: int
    due: bool


@dataclass(frozen=True, slots=True)
class Progress:
    """How a learner is doing: cases, those solved, median minutes, wrong parts and hazards."""

    person: Person
    cases: int
    solved: int
    minutes: float
    wasted: float
    hazards: int
    answers: int
    right: int


def topics_of(person: Person, today: date) -> list[TopicRow]:
    """Return every topic, due ones first, then by how little is known of it."""
    stand = {row.topic: row for row in Topic.objects.filter(person=person)}
    asked: dict[str, list[bool]] = {}
    for topic, right in Answer.objects.filter(person=person).values_list("topic", "right"):
        asked.setdefault(topic, []).append(right)
    rows = []
    for drill in DRILLS:
        row = stand.get(drill.key)
        box = Box(row.box, row.due) if row else Box()
        own = asked.get(drill.key, [])
        rows.append(
            TopicRow(drill.key, drill.title, sum(own), len(own), box.box, box.is_due(today))
        )
    return sorted(rows, key=lambda row: (not row.due, row.box))


def visible_rounds(person: Person) -> QuerySet[Round]:
    """Return the cases that somebody may open: their own; a shop lead those of others too."""
    rows = Round.objects.select_related("revision__bike", "person")
    if person.is_lead:
        return rows
    return rows.filter(person=person)


def learners() -> QuerySet[Person]:
    """Return who learns here: learners, and whoever has practised."""
    some = Q(role=Role.LEARNER) | Q(rounds__isnull=False) | Q(answers__isnull=False)
    return Person.objects.filter(some, is_active=True).distinct()


def homework_given() -> QuerySet[Homework]:
    """Return the homework that stands."""
    return Homework.objects.filter(gone=False)


def rounds_of(person: Person) -> list[Round]:
    """Return the newest cases of somebody."""
    return list(Round.objects.filter(person=person).select_related("revision__bike")[:MOST_ROUNDS])


def progress_of(person: Person) -> Progress:
    """Return how somebody is doing."""
    ended = [row for row in Round.objects.filter(person=person).exclude(ended=None) if row.debrief]
    told = [row.debrief for row in ended]
    minutes = sorted(row["minutes"] for row in told if row["right"])
    answers = Answer.objects.filter(person=person)
    return Progress(
        person,
        len(told),
        sum(row["right"] for row in told),
        minutes[len(minutes) // 2] if minutes else 0.0,
        sum(row["wasted"] for row in told),
        sum(len(row["hazards"]) for row in told),
        answers.count(),
        answers.filter(right=True).count(),
    )


@dataclass(frozen=True, slots=True)
class GradedRow:
    """One graded case, and whether somebody has solved it."""

    key: str
    level: int
    state: str


def graded_of(rows: Iterable[Round]) -> list[GradedRow]:
    """Return the graded cases: `solved`, `played` or open; what each hides is not told."""
    best: dict[str, str] = {}
    for row in rows:
        if row.graded and row.debrief:
            solved = (
                row.debrief["right"] and not row.debrief["wasted"] and not row.debrief["hazards"]
            )
            state = "solved" if solved else "played"
            best[row.graded] = "solved" if "solved" in (state, best.get(row.graded)) else "played"
    return [GradedRow(item.key, item.level, best.get(item.key, "")) for item in GRADED]


@dataclass(frozen=True, slots=True)
class HomeworkRow:
    """Homework as one person has it: what is left of it, and whether it is late."""

    row: Homework
    codes: list[tuple[str, bool]]
    topics: list[tuple[str, str, bool]]
    late: bool

    @property
    def left(self) -> int:
        """How many pieces are not done."""
        return sum(not done for _, done in self.codes) + sum(not done for _, _, done in self.topics)


def homework_of(person: Person, today: date) -> list[HomeworkRow]:
    """Return the homework of somebody, soonest first. Done: a case ended, a drill answered right
    since."""
    titles = {drill.key: drill.title for drill in DRILLS}
    rows = []
    for row in Homework.objects.filter(people=person, gone=False):
        ended = set()
        for r in Round.objects.filter(person=person, begun__gte=row.at).exclude(ended=None):
            ended.add(r.code)
        right = set(
            Answer.objects.filter(person=person, at__gte=row.at, right=True).values_list(
                "topic", flat=True
            )
        )
        codes = [(code, code in ended) for code in row.codes]
        topics = [(key, titles.get(key, key), key in right) for key in row.topics]
        found = HomeworkRow(row, codes, topics, row.due < today)
        rows.append(found)
    return rows
