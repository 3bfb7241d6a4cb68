"""The six questions about a pack, asked for each pack of a bike."""

from dataclasses import dataclass

from brightcircuit.jobs.models import Job
from brightcircuit.jobs.way import plan_of
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
    """Return what is asked about the packs of a job's bike."""
    several = packs(plan_of(job))
    if len(several) < 2:
        return tuple(Question(name, "", text) for name, text in TRIAGE)
    found = []
    for pack in several:
        for name, text in TRIAGE:
            found.append(Question(f"{pack.id}.{name}", pack.name, text))
    return tuple(found)
