"""Reading what Program keeps: profiles, values, what is wanted, what is left."""

from dataclasses import dataclass
from datetime import datetime

from brightcircuit.jobs.models import Job
from brightcircuit.jobs.way import plan_of
from brightcircuit.program.models import Otherwise, Plan, ShopProfile, Snapshot, Told
from brightcircuit.shop.people import the_shop
from brightcore.bike.measured import as_measured
from brightcore.bike.model import Bike, Part
from brightcore.formats.class_file import shipped_classes
from brightcore.formats.profile_file import load_profile, shipped_profiles
from brightcore.kinds.controller_spec import ControllerSpec
from brightcore.kinds.display import DisplaySpec
from brightcore.kinds.modules import CombinerSpec
from brightcore.kinds.pack import PackSpec
from brightcore.programming.case import Aim
from brightcore.programming.checks import check_values
from brightcore.programming.derive import Derived, derive_settings, differ
from brightcore.programming.findings import ValueFinding
from brightcore.programming.profile import Parameter, Profile
from brightcore.programming.roles import role as role_of

DEVICE_OF: tuple[tuple[type, str], ...] = (
    (DisplaySpec, "display"),
    (ControllerSpec, "controller"),
    (CombinerSpec, "combiner"),
    (PackSpec, "pack"),
)
"""Which parts can be programmed, and what their profiles are for; in the order of work."""


MOST_ELSEWHERE = 60
"""Snapshots of other bikes that are offered to be copied."""


@dataclass(frozen=True, slots=True)
class Row:
    """One parameter of one device: what it has, what is wanted and why, and where it stands.

    `has` is None where nobody has looked; `state`: `same`, `differs`, `unread`, `free`.
    `derived`: what the bike itself decides, None where it does not.
    """

    parameter: Parameter
    has: float | None
    wanted: float | None
    reason: str
    source: str
    own_reason: str
    derived: float | None
    at: datetime | None
    by_name: str

    @property
    def state(self) -> str:
        """Where it stands."""
        if self.wanted is None:
            return "free"
        if self.has is None:
            return "unread"
        if differ(self.has, self.wanted):
            return "differs"
        return "same"

    @property
    def has_words(self) -> str:
        """What it has, in words."""
        if self.has is None:
            return ""
        return self.parameter.words(self.has)

    @property
    def wanted_words(self) -> str:
        """What is wanted, in words."""
        if self.wanted is None:
            return ""
        return self.parameter.words(self.wanted)


@dataclass(frozen=True, slots=True)
class Device:
    """A device of the bike: its part, its profile (None where none is named), and its
    parameters."""

    part: Part
    kind: str
    profile: Profile | None
    rows: tuple[Row, ...]
    by_role: tuple[tuple[str, str, str], ...] = ()
    """Where no profile is named: (what, wanted in words, why) of everything that one of its kind
    may have."""

    @property
    def left(self) -> int:
        """Parameters that are wanted otherwise, or that nobody has read."""
        return sum(row.state in ("differs", "unread") for row in self.rows)

    @property
    def wrong(self) -> int:
        """Parameters that are known to be wanted otherwise."""
        return sum(row.state == "differs" for row in self.rows)


def profiles() -> dict[str, Profile]:
    """Return every profile that is offered, the shop's own instead of one of the same name."""
    found = {profile.id: profile for profile in shipped_profiles()}
    for own in ShopProfile.objects.filter(retired=False):
        found[own.name] = load_profile(own.text)
    return found


def snapshots_elsewhere(job: Job) -> list[Snapshot]:
    """Return the newest snapshots of other bikes."""
    others = Snapshot.objects.exclude(job__revision__bike=job.revision.bike_id)
    return list(others.select_related("job__revision__bike").order_by("-id")[:MOST_ELSEWHERE])


def aim_of(job: Job) -> Aim:
    """Return what the bike is to be: as asked on Program, else by its description and place."""
    row = Plan.objects.filter(job=job).first()
    data = row.data if row else {}
    info, shop = plan_of(job).info, the_shop()
    limit, why = float(data.get("limit_kmh") or 0.0), str(data.get("limit_why") or "as asked for")
    if not limit and info.speed_limit_kmh:
        limit, why = info.speed_limit_kmh, "as the bike is described"
    place = info.place or shop.place
    classes = [c for c in shipped_classes() if c.place == place and c.assist_kmh > 0]
    if not limit and classes:
        slowest = min(classes, key=lambda c: c.assist_kmh)
        limit = slowest.assist_kmh
        why = f"{slowest.name}, {place}: the slowest class there; local law decides"
    return Aim(
        limit,
        why,
        str(data.get("style") or "even"),
        shop.units == "imperial",
        str(data.get("throttle") or ""),
    )


def programmed(job: Job) -> bool:
    """Whether any device of the bike has a profile; without one there is nothing to work out."""
    return bool(plan_of(job).profiles)


def devices_of(job: Job) -> tuple[Device, ...]:
    """Return every device of the job's bike that can be programmed."""
    bike = plan_of(job)
    known, named = profiles(), dict(bike.profiles)
    kinds = []
    for spec, kind in DEVICE_OF:
        for part in bike.parts:
            if isinstance(part.spec, spec):
                kinds.append((part, kind))
    of = {part.id: known.get(named.get(part.id, "")) for part, _ in kinds}
    known_roles = {kind: _roles_of(kind) for _, kind in kinds}
    wanted = derived_of(
        job, bike, of, {p.id: known_roles[kind] for p, kind in kinds if of[p.id] is None}
    )
    newest: dict[tuple[str, str], Told] = {}
    told_here = job.told.filter(undone=False)
    if job.is_open:
        # Values that came with a file are history: the device is read again before it is written.
        told_here = told_here.filter(imported=False)
    for told in told_here:
        newest[told.part, told.code] = told
    own = {(o.part, o.code): o for o in job.otherwise.all()}
    found = []
    for part, kind in kinds:
        if of[part.id] is not None or kind in ("display", "controller"):
            found.append(
                Device(
                    part,
                    kind,
                    of[part.id],
                    _rows(bike, part, of[part.id], wanted, newest, own),
                    () if of[part.id] is not None else _wanted_by_role(part, wanted),
                )
            )
    return tuple(found)


def seen_devices(job: Job) -> tuple[Device, ...]:
    """Return the devices for a page, which changes nothing: worked out once for each job that was
    read."""
    found: tuple[int, tuple[Device, ...]] | None = job.__dict__.get("_seen_devices")
    if found is None or found[0] != job.version:
        found = (job.version, devices_of(job))
        job.__dict__["_seen_devices"] = found
    return found[1]


def derived_of(
    job: Job,
    bike: Bike,
    of: dict[str, Profile | None],
    unnamed: dict[str, tuple[str, ...]] | None = None,
) -> tuple[Derived, ...]:
    """Return what every device should be set to; `unnamed`: roles of those whose profile is not
    known."""
    held = {part: profile.roles() for part, profile in of.items() if profile is not None}
    return derive_settings(bike, aim_of(job), held | (unnamed or {}))


def _roles_of(kind: str) -> tuple[str, ...]:
    """Return every role that a shipped device of a kind holds, each once."""
    held = []
    for profile in shipped_profiles():
        if profile.device == kind:
            for role in profile.roles():
                held.append(role)
    return tuple(dict.fromkeys(held))


def _wanted_by_role(part: Part, wanted: tuple[Derived, ...]) -> tuple[tuple[str, str, str], ...]:
    """Return what a device without a profile should be set to, in words."""
    rows = []
    for item in wanted:
        if item.part != part.id:
            continue
        role = role_of(item.role)
        choices = dict(role.choices)
        words = choices.get(item.value) or f"{item.value:.{role.digits}f} {item.unit}".strip()
        rows.append((role.title, words, item.reason))
    return tuple(rows)


def _rows(
    bike: Bike,
    part: Part,
    profile: Profile | None,
    wanted: tuple[Derived, ...],
    newest: dict[tuple[str, str], Told],
    own: dict[tuple[str, str], Otherwise],
) -> tuple[Row, ...]:
    if profile is None:
        return ()
    by_role = {d.role: d for d in wanted if d.part == part.id}
    rows = []
    for item in profile.parameters:
        derived, told, other = (
            by_role.get(item.role),
            newest.get((part.id, item.code)),
            own.get((part.id, item.code)),
        )
        # What was sent and not read back is not known, whatever was known before.
        sent = told is not None and told.how == "sent"
        has = told.value if told is not None and not sent else None
        if has is None and not sent and derived is not None and derived.current is not None:
            has = item.of_role(derived.current)
        if derived is not None:
            value = item.of_role(derived.value)
        else:
            value = None
        rows.append(
            Row(
                item,
                has,
                other.value if other else value,
                _reason(item, derived),
                derived.source if derived is not None else "",
                f"{other.reason} ({other.by_name})" if other else "",
                value,
                told.at if told else None,
                told.by_name if told else "",
            )
        )
    return tuple(rows)


def _reason(item: Parameter, derived: Derived | None) -> str:
    """Return why a value is wanted; where the menu has only a near one, that it is a compromise."""
    if derived is None:
        return "Nothing on the bike decides it"
    value = item.of_role(derived.value)
    if not differ(item.to_role(value), derived.value):
        return derived.reason
    best = f"{derived.value:g} {derived.unit}".strip()
    return (
        f"{derived.reason}. A compromise: {best} is wanted, {item.words(value)} is the "
        "nearest on its menu"
    )


def findings_of(job: Job, devices: tuple[Device, ...]) -> tuple[ValueFinding, ...]:
    """Return what the values mean together, as far as they were read."""
    bike = plan_of(job)
    values = {}
    for device in devices:
        for row in device.rows:
            if row.parameter.role and row.has is not None:
                values[(device.part.id, row.parameter.role)] = row.parameter.to_role(row.has)
    of = {device.part.id: device.profile for device in devices}
    return check_values(as_measured(bike), values, derived_of(job, bike, of), aim_of(job))
