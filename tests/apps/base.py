"""What tests of the application share: people, bikes, jobs, and engines that are ready."""

from collections.abc import Sequence
from typing import Any

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase
from django.urls import reverse

from brightcircuit.arrive.services import answer_triage
from brightcircuit.bikes.models import Revision
from brightcircuit.bikes.services import import_bike
from brightcircuit.bikes.translate import core_bike
from brightcircuit.demo.work import prove_all
from brightcircuit.engines import holders as engines
from brightcircuit.engines.belief import job_trace
from brightcircuit.jobs.models import Job
from brightcircuit.jobs.queries import whole_job
from brightcircuit.library.services import add_generic
from brightcircuit.record.services import close_job
from brightcircuit.shop.models import Person, Role
from brightcircuit.stations.opening import open_job
from brightcircuit.stations.whats_open import whats_open
from brightcircuit.trace.services import add_evidence
from brightcore.tracing.engine import Engine
from brightcore.tracing.evidence import Evidence
from brightcore.tracing.trace import Trace
from tests.bikes import DEMO, engine

ALL_NO = dict.fromkeys(("swollen", "hot", "wet", "dropped", "smell", "low"), False)
LIT = Evidence("look", "lit", scene="switch_on", observable="display")
DARK_TEST = "look switch_on"
GATES = (
    "pack_safe",
    "wheel_up",
    "pack_out",
    "discharged",
    "road",
    "hot",
    "wet",
    "known_good",
    "balance",
)


def person(name: str, role: str = Role.TECHNICIAN) -> Person:
    """Return a new person who can sign in with their own name as password."""
    return Person.objects.create_user(name, password=name, role=role)


def prime(revision: Revision, made: Engine) -> None:
    """Give a revision an engine that is fully prepared."""
    holder = engines.Holder(
        core_bike(revision), revision.sha256, revision.sha256, {}, engine=made, done=1
    )
    holder.first.set()
    holder.finished.set()
    engines._holders[revision.sha256] = holder


class ShopTest(TestCase):
    """A shop with a technician, a lead, one bike and one open job on it."""

    bike = "fern"
    with_engine = False

    @classmethod
    def setUpTestData(cls) -> None:
        cls.technician = person("tech")
        cls.lead = person("boss", Role.LEAD)
        cls.revision = import_bike(
            actor=cls.technician, text=(DEMO / f"{cls.bike}.json").read_bytes()
        ).revision
        cls.job_uuid = cls.open().uuid

    def setUp(self) -> None:
        engines.forget_engines()
        self.addCleanup(engines.forget_engines)
        if self.with_engine:
            prime(self.revision, engine(self.bike))
        self.client.force_login(self.technician)

    @classmethod
    def open(cls, **more: Any) -> Job:
        """Return a new open job on the bike."""
        return open_job(
            actor=cls.technician, revision=cls.revision, **{"complaint": "Shudders"} | more
        )

    @property
    def job(self) -> Job:
        """The job as it stands in the database."""
        return whole_job(self.job_uuid).get()

    def let_go(self, job: Job) -> None:
        """Close a job as the lead does who lets everything go that is open on it."""
        reasons = {item.key: "for this test" for item in whats_open(job)}
        close_job(actor=self.lead, job=job, reason="for this test", reasons=reasons)

    def prove_all(self, job: Job) -> None:
        """Make every check of a job; all pass."""
        prove_all(self.technician, job)

    def safe(self) -> None:
        """Answer the questions about the pack, all no."""
        answer_triage(actor=self.technician, job=self.job, answers=ALL_NO)

    def add(
        self,
        *items: Evidence,
        actor: Person | None = None,
        ticked: Sequence[str] = GATES,
        client: str = "",
        version: int | None = None,
    ) -> bool:
        """Store evidence, with all cautions ticked unless said otherwise."""
        job = self.job
        return add_evidence(
            actor=actor or self.technician,
            job=job,
            trace=job_trace(job).trace or Trace(engine(self.bike), []),
            items=items,
            ticked=ticked,
            client=client,
            version=job.version if version is None else version,
        )

    def belief(self) -> list[float]:
        """Return the belief of the job as a list."""
        trace = job_trace(self.job).trace
        assert trace is not None
        return list(trace.belief)


def upload(content: bytes, name: str) -> SimpleUploadedFile:
    return SimpleUploadedFile(name, content)


class StationTest(ShopTest):
    """A shop with the generic library, and forms posted by the name of their page."""

    @classmethod
    def setUpTestData(cls) -> None:
        super().setUpTestData()
        add_generic()

    def post(self, _view: str, /, *args: Any, **data: Any) -> Any:
        return self.client.post(reverse(_view, args=args), data, follow=True)
