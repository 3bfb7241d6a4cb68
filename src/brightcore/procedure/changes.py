"""What a job has changed on a bike: the description at arrival against the present one."""

from dataclasses import dataclass, replace

from brightcore.bike.model import Bike, Part
from brightcore.describing.edit import compare
from brightcore.kinds import REGISTRY


@dataclass(frozen=True, slots=True)
class Changes:
    """What differs between two descriptions.

    `parts`: fitted or changed; `fitted`: those of them that are another thing than before; `gone`: names of
    parts taken off; `joins`: connections made or changed; `set_parts`: set otherwise; `loose`: parts whose
    plugs were pulled; `words`: all of it in words.
    """

    parts: frozenset[str] = frozenset()
    fitted: frozenset[str] = frozenset()
    gone: tuple[str, ...] = ()
    joins: frozenset[str] = frozenset()
    set_parts: frozenset[str] = frozenset()
    loose: frozenset[str] = frozenset()
    words: tuple[str, ...] = ()

    @property
    def touched(self) -> frozenset[str]:
        """Return the parts that were fitted, changed or set."""
        return self.parts | self.set_parts

    def disturbed(self, bike: Bike) -> frozenset[str]:
        """Return the parts whose plugs were connected, changed or pulled."""
        ends = {part for join in bike.joins if join.id in self.joins for part in (join.a_part, join.b_part)}
        return frozenset(ends) | self.loose

    def __bool__(self) -> bool:
        return bool(self.words)


def changes_between(before: Bike, after: Bike) -> Changes:
    """Return what differs between two descriptions of one bike; measured values alone are no change."""
    old, new = {part.id: part for part in before.parts}, {part.id: part for part in after.parts}
    joins, fresh = {join.id: join for join in before.joins}, {join.id: join for join in after.joins}
    were = {(s.part, s.role): s.value for s in before.settings}
    are = {(s.part, s.role): s.value for s in after.settings}
    loose = {
        part
        for name, join in joins.items()
        if name not in fresh
        for part in (join.a_part, join.b_part)
        if part in new
    }
    return Changes(
        frozenset(i for i, part in new.items() if _differs(old.get(i), part)),
        frozenset(i for i, part in new.items() if _is_another(old.get(i), part)),
        tuple(part.name for i, part in old.items() if i not in new),
        frozenset(i for i, join in fresh.items() if joins.get(i) != join),
        frozenset(part for part, role in {*were, *are} if were.get((part, role)) != are.get((part, role))),
        frozenset(loose),
        compare(before, replace(after, measured=before.measured), REGISTRY),
    )


def _differs(old: Part | None, new: Part) -> bool:
    """Return whether a part is described otherwise; a torque that was looked up is no change of the bike.

    Torques are what `repr` leaves out (see `kinds.base.torque_value`).
    """
    return repr(old) != repr(new)


def _is_another(old: Part | None, new: Part) -> bool:
    """Return whether another thing is fitted: there was none, or its kind, or both name and values differ."""
    if old is None or old.kind != new.kind:
        return True
    return old.name != new.name and repr(old.spec) != repr(new.spec)
