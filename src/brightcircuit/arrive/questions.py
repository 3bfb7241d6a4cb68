"""The six questions about a pack, asked for each pack of a bike."""

from dataclasses import dataclass

from brightcircuit.jobs.models import Job
from brightcircuit.jobs.way import way_of
from brightcore.bike.model import Part
from brightcore.kinds.pack import PackSpec
from brightcore.kinds.select import packs

TRIAGE = (
    ("swollen", "Swollen, bulging or cracked?"),
    ("hot", "Warm or hot with nothing connected?"),
    ("wet", "Wet inside, or has been under water?"),
    ("dropped", "Dropped, crushed or crashed?"),
    ("smell", "Sweet or solvent smell, hissing, leaking?"),
    ("low", "Far below its minimum voltage?"),
)


@dataclass(frozen=True, slots=True)
class Question:
    """One question about one pack; where there is only one, `pack` is "" and the key the bare
    name."""

    key: str
    pack: str
    text: str

    @property
    def words(self) -> str:
        """The question with its pack."""
        if self.pack:
            return f"{self.pack}: {self.text}"
        return self.text


def questions(job: Job) -> tuple[Question, ...]:
    """Return what is asked about the packs of a job's bike as it stands; of those that it shall
    have while there is none.

    An answer is about one pack. Whoever puts another one on the bike is asked again.
    """
    asked = packs_asked(job)
    if not asked or [pack.id for pack in asked] == [first_asked(job)]:
        return tuple(Question(name, "", text) for name, text in TRIAGE)
    bare = _has_bare_answers(job)
    found = []
    for pack in asked:
        own = f"{pack.id}."
        if bare and pack.id == first_asked(job):
            own = ""
        for name, text in TRIAGE:
            found.append(Question(f"{own}{name}", pack.name if len(asked) > 1 else "", text))
    return tuple(found)


def packs_asked(job: Job) -> tuple[Part[PackSpec], ...]:
    """Return the packs that the questions are about; none where none is described yet."""
    way = way_of(job)
    return tuple(packs(way.stands)) or tuple(packs(way.plan))


def first_asked(job: Job) -> str:
    """Return the id of the pack that answers without a pack's name are about: the one that was
    there when the job was opened."""
    arrival = getattr(job, "arrival", None)
    if arrival is not None and arrival.triage_pack:
        return str(arrival.triage_pack)
    way = way_of(job)
    first = tuple(packs(way.arrival)) or tuple(packs(way.plan))
    return first[0].id if len(first) == 1 else ""


def _has_bare_answers(job: Job) -> bool:
    arrival = getattr(job, "arrival", None)
    if arrival is None:
        return False
    return any(arrival.triage.get(name) is not None for name, _ in TRIAGE)
