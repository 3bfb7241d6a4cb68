"""What a job has changed on a bike: the description at arrival against the present one."""

from collections.abc import Iterable
from dataclasses import dataclass

from brightcore.bike.model import Bike, Join, Part
from brightcore.describing.compare import replaced_words
from brightcore.describing.join_words import join_words
from brightcore.describing.specs import shown_unit
from brightcore.kinds import REGISTRY
from brightcore.kinds.select import is_cable
from brightcore.procedure.stands import mates


@dataclass(frozen=True, slots=True)
class Changes:
    """What differs between two descriptions.

    `parts`: fitted or changed; `fitted`: those of them that are another thing than before; `gone`:
    names of parts taken off; `joins`: connections made or changed; `set_parts`: set otherwise;
    `loose`: parts whose plugs were pulled; `drive_disturbed`: whether a plug between two parts of
    the drive was. `exchanged`: what came in the place of what; `came`, `went`: names of what else
    was fitted or removed; `plugs`, `settings`: connections between parts that stayed, and values,
    in words.
    """

    parts: frozenset[str] = frozenset()
    fitted: frozenset[str] = frozenset()
    gone: tuple[str, ...] = ()
    joins: frozenset[str] = frozenset()
    set_parts: frozenset[str] = frozenset()
    loose: frozenset[str] = frozenset()
    drive_disturbed: bool = False
    exchanged: tuple[tuple[str, str], ...] = ()
    came: tuple[str, ...] = ()
    went: tuple[str, ...] = ()
    plugs: tuple[str, ...] = ()
    settings: tuple[str, ...] = ()

    @property
    def words(self) -> tuple[str, ...]:
        """Return all of it in the words of a technician: things first, then plugs, then
        settings."""
        things = [replaced_words(old, new) for old, new in self.exchanged]
        things += [f"Removed: {name}" for name in self.went]
        things += [f"Fitted: {name}" for name in self.came]
        return (*things, *self.plugs, *self.settings)

    @property
    def to_do(self) -> tuple[str, ...]:
        """Return all of it as work that is still to be done."""
        things = [f"Replace: {old} by {new}" for old, new in self.exchanged]
        things += [f"Remove: {name}" for name in self.went]
        things += [f"Fit: {name}" for name in self.came]
        count = len(self.plugs)
        if count:
            things.append(f"{count} connection{'s' if count > 1 else ''} between parts that stay")
        return tuple(things)

    @property
    def touched(self) -> frozenset[str]:
        """Return the parts that were fitted, changed or set."""
        return self.parts | self.set_parts

    def disturbed(self, bike: Bike) -> frozenset[str]:
        """Return the parts whose plugs were connected, changed or pulled."""
        ends: set[str] = set()
        for join in bike.joins:
            if join.id in self.joins:
                ends |= {join.a_part, join.b_part}
        return frozenset(ends) | self.loose

    def __bool__(self) -> bool:
        return bool(self.parts or self.gone or self.joins or self.set_parts or self.loose)


def changes_between(before: Bike, after: Bike) -> Changes:
    """Return what differs between two descriptions of one bike; measured values alone are no
    change."""
    old, new = {part.id: part for part in before.parts}, {part.id: part for part in after.parts}
    joins, fresh = {join.id: join for join in before.joins}, {join.id: join for join in after.joins}
    were = {(s.part, s.role): s.value for s in before.settings}
    are = {(s.part, s.role): s.value for s in after.settings}
    loose: set[str] = set()
    for name, join in joins.items():
        if name not in fresh:
            loose |= {join.a_part, join.b_part} & set(new)
    rows = []
    for i, part in new.items():
        if _is_another(old.get(i), part):
            rows.append(i)
    another = frozenset(rows)
    return Changes(
        frozenset(i for i, part in new.items() if _differs(old.get(i), part)),
        another,
        tuple(part.name for i, part in old.items() if i not in new),
        frozenset(i for i, join in fresh.items() if joins.get(i) != join),
        frozenset(
            part for part, role in {*were, *are} if were.get((part, role)) != are.get((part, role))
        ),
        frozenset(loose),
        _drive_disturbed(before, after),
        *_things(before, after, another),
        tuple(_plug_words(before, after, another)),
        tuple(_set_words(before, after)),
    )


DRIVING = ("energy", "between", "controller", "motor", "bar", "sensor")
"""Places on the Line of what drives, feeds, asks for or stops the motor."""


def drives(part: Part) -> bool:
    """Return whether a part drives, feeds, asks for or stops the motor."""
    return REGISTRY[part.kind].place in DRIVING


def drives_apart(bike: Bike, joins: Iterable[Join]) -> bool:
    """Return whether any of some connections is between two parts that drive, feed, ask for or stop
    the motor."""
    return any(drives(bike.part(join.a_part)) and drives(bike.part(join.b_part)) for join in joins)


def _by_mates(bike: Bike) -> dict[frozenset[tuple[str, str]], Join]:
    """Return the connections of a bike by what meets what: an id may be another for the same
    one."""
    return {mates(join): join for join in bike.joins}


def _drive_disturbed(before: Bike, after: Bike) -> bool:
    were, are = _by_mates(before), _by_mates(after)
    gone = [join for key, join in were.items() if key not in are]
    made = [join for key, join in are.items() if key not in were]
    return drives_apart(before, gone) or drives_apart(after, made)


Names = tuple[str, ...]


def _things(
    before: Bike, after: Bike, another: frozenset[str]
) -> tuple[tuple[tuple[str, str], ...], Names, Names]:
    """Return what came in the place of what, what else came, and what else went, by their names.

    A cable that came or went with its part is not told by itself.
    """
    old, new = {part.id: part for part in before.parts}, {part.id: part for part in after.parts}
    came = [part for name, part in new.items() if name in another and not is_cable(part)]
    exchanged, went = [], []
    for part in old.values():
        other = next((p for p in came if p.replaces == part.id or p.id == part.id), None)
        if other is not None:
            exchanged.append((part.name, other.name))
        elif part.id not in new and not is_cable(part):
            went.append(part.name)
    other_came = tuple(
        part.name for part in came if part.replaces not in old and part.id not in old
    )
    return tuple(exchanged), other_came, tuple(went)


def _plug_words(before: Bike, after: Bike, another: frozenset[str]) -> list[str]:
    """Return the connections that were made or taken apart between parts that stayed."""
    same = {part.id for part in before.parts} & {part.id for part in after.parts} - another
    were, are = _by_mates(before), _by_mates(after)
    lines = []
    for key, join in were.items():
        if key not in are and {join.a_part, join.b_part} <= same:
            lines.append(f"Disconnected: {join_words(before, join)}")
    for key, join in are.items():
        if key not in were and {join.a_part, join.b_part} <= same:
            lines.append(f"Connected: {join_words(after, join)}")
    return lines


def _set_words(before: Bike, after: Bike) -> list[str]:
    """Return what devices were set to, by the names that their kinds give their settings."""
    were = {(s.part, s.role): s.value for s in before.settings}
    lines = []
    for setting in after.settings:
        value = were.get((setting.part, setting.role))
        if value == setting.value:
            continue
        part = after.part(setting.part)
        name = REGISTRY[part.kind].settings.get(setting.role, setting.role.replace("_", " "))
        unit = shown_unit(setting.role)
        was = f", was {value:.6g}" if value is not None else ""
        lines.append(f"{part.name}: {name} {setting.value:.6g} {unit}".rstrip() + was)
    return lines


def _differs(old: Part | None, new: Part) -> bool:
    """Return whether a part is described otherwise; a torque that was looked up is no change of the
    bike.

    Torques are what `repr` leaves out (see `kinds.base.torque_value`).
    """
    return repr(old) != repr(new)


def _is_another(old: Part | None, new: Part) -> bool:
    """Return whether another thing is fitted: there was none, or its kind, or both name and values
    differ."""
    if old is None or old.kind != new.kind:
        return True
    # Files written before parts had an identity of their own exchanged them under one id.
    return old.name != new.name and repr(old.spec) != repr(new.spec)
