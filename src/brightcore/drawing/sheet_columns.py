"""Which column of the wiring drawing every part stands in."""

from collections import deque
from dataclasses import dataclass, field

from brightcore.bike.model import Bike
from brightcore.kinds import REGISTRY
from brightcore.kinds.select import at_place


@dataclass
class Columns:
    """Columns as they are given out: controllers 0, negative to the left, positive to the right."""

    bike: Bike
    near: dict[str, list[str]]
    of: dict[str, int]
    rows: dict[int, int] = field(default_factory=lambda: {-1: 0, 1: 0})
    """Rows that each side takes up so far."""

    def branch(self, start: str) -> list[str]:
        """Return the parts that hang on a part, controllers aside, nearest first."""
        members = [start]
        queue = deque(members)
        while queue:
            for part in self.near[queue.popleft()]:
                if part not in members and part not in self.of:
                    members.append(part)
                    queue.append(part)
        return members

    def side(self, members: list[str]) -> int:
        """Return the side for a branch: energy and motors right, bar controls left.

        What is neither goes to the shorter side, so that the page stays about square.
        """
        places = {REGISTRY[self.bike.part(m).kind].place for m in members}
        if places & {"energy", "motor"}:
            return 1
        if "bar" in places:
            return -1
        return -1 if self.rows[-1] < self.rows[1] else 1

    def depths(self, start: str, members: list[str]) -> dict[str, int]:
        """Return how many columns from the controllers each part of a branch stands."""
        depth = {}
        for part in members:
            at_controller = any(self.of.get(other) == 0 for other in self.near[part])
            if part == start or at_controller:
                depth[part] = 1
        queue = deque(depth)
        while queue:
            part = queue.popleft()
            for other in self.near[part]:
                if other in members and other not in depth:
                    depth[other] = depth[part] + 1
                    queue.append(other)
        return depth

    def put(self, start: str) -> None:
        """Give the branch that begins at a part its columns."""
        members = self.branch(start)
        side = self.side(members)
        depth = self.depths(start, members)
        for part in members:
            self.of[part] = side * depth[part]
            self.rows[side] += _rows_of(self.bike, part)


def _rows_of(bike: Bike, part_id: str) -> int:
    return sum(len(port.pins) + 2 for port in bike.part(part_id).ports)


def columns_of(bike: Bike) -> dict[str, int]:
    """Return the column of every part: controllers 0, bar controls to the left, energy and motor to
    the right, the rest to the shorter side."""
    near: dict[str, list[str]] = {part.id: [] for part in bike.parts}
    for join in bike.joins:
        near[join.a_part].append(join.b_part)
        near[join.b_part].append(join.a_part)
    controllers = at_place(bike, "controller")
    columns = Columns(
        bike,
        {part: list(dict.fromkeys(others)) for part, others in near.items()},
        {part.id: 0 for part in controllers},
    )
    starts = []
    for controller in controllers:
        starts += columns.near[controller.id]
    # Whatever reaches no controller comes last.
    starts += [part.id for part in bike.parts]
    for start in starts:
        if start not in columns.of:
            columns.put(start)
    return columns.of
