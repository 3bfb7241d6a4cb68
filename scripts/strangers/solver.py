"""A nodal solver of its own: every branch a smooth curve, found by steps as a bike powers up.

Branches are read as they are described (a, b, control, pieces); corners are rounded, so that no
region has to be found. Nothing of the engine's solver is used.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]

LEAK_S = 2e-9
"""What holds a node that nothing else holds: damp and dust, 0.5 GΩ."""

CORNER_V, SWITCH_V = 0.008, 0.02
"""How far a corner and a switched control are rounded."""

MOST_STEPS = 300
DONE_A = 1e-8

WIDEST_V = 3.0
"""How far a node may move in one step."""


@dataclass(frozen=True, slots=True)
class Piece:
    """A straight piece of a branch, up to a voltage."""

    upto: float
    g1: float
    g2: float
    j: float


@dataclass(frozen=True, slots=True)
class Branch:
    """A branch from `a` to `b`; `c`, `d` control it where it has g2 or is switched by them."""

    name: str
    a: str
    b: str
    pieces: tuple[Piece, ...]
    c: str = ""
    d: str = ""
    switched: bool = False

    @property
    def is_plain(self) -> bool:
        """Whether it is one straight line."""
        return len(self.pieces) == 1


class Net:
    """Branches between named nodes, the ground being `0`."""

    def __init__(self, nodes: Sequence[str], branches: Sequence[Branch]) -> None:
        self.index = {name: i for i, name in enumerate(nodes)}
        self.count = len(nodes)
        self.names = [branch.name for branch in branches]
        ends = np.array(
            [[self.at(end) for end in (x.a, x.b, x.c, x.d)] for x in branches], dtype=np.intp
        )
        self.a, self.b, self.c, self.d = ends.T
        most = max(len(x.pieces) for x in branches)
        shape = (len(branches), most)
        self.g1, self.g2, self.j = np.zeros(shape), np.zeros(shape), np.zeros(shape)
        self.upto = np.full(shape, np.inf)
        for k, branch in enumerate(branches):
            for n in range(most):
                piece = branch.pieces[min(n, len(branch.pieces) - 1)]
                self.g1[k, n], self.g2[k, n], self.j[k, n] = piece.g1, piece.g2, piece.j
                if n < len(branch.pieces) - 1:
                    self.upto[k, n] = piece.upto
        self.switched = np.array([branch.switched for branch in branches])
        self.by_control = self.switched[:, None] & np.ones(shape, dtype=bool)
        self.width = np.where(self.switched, SWITCH_V, CORNER_V)

    def at(self, name: str) -> int:
        """Return the number of a node, the last one for ground."""
        if name in ("", "0"):
            return len(self.index)
        return self.index[name]

    def _shares(self, control: Floats) -> tuple[Floats, Floats]:
        """Return how much of each piece holds [E, P] and how that moves with the control."""
        off = (control[:, None] - self.upto[:, :-1]) / self.width[:, None]
        past = np.where(np.isfinite(off), 1.0 / (1.0 + np.exp(-np.clip(off, -60, 60))), 0.0)
        slope = past * (1.0 - past) / self.width[:, None]
        count = len(control)
        ones, zeros = np.ones((count, 1)), np.zeros((count, 1))
        above = np.hstack([ones, past])
        below = np.hstack([past, zeros])
        rises = np.hstack([zeros, slope])
        falls = np.hstack([slope, zeros])
        return above - below, rises - falls

    def currents(self, volts: Floats) -> Floats:
        """Return the amps of every branch [E] at volts [N]."""
        full = np.append(volts, 0.0)
        ab, cd = full[self.a] - full[self.b], full[self.c] - full[self.d]
        share, _ = self._shares(np.where(self.switched, cd, ab))
        every = self.g1 * ab[:, None] + self.g2 * cd[:, None] + self.j
        return np.asarray((share * every).sum(axis=1))

    def _system(self, volts: Floats) -> tuple[Floats, Floats]:
        full = np.append(volts, 0.0)
        ab, cd = full[self.a] - full[self.b], full[self.c] - full[self.d]
        share, moves = self._shares(np.where(self.switched, cd, ab))
        every = self.g1 * ab[:, None] + self.g2 * cd[:, None] + self.j
        amps = (share * every).sum(axis=1)
        by_ab = (share * self.g1).sum(axis=1)
        by_cd = (share * self.g2).sum(axis=1)
        turning = (moves * every).sum(axis=1)
        by_ab = by_ab + np.where(self.switched, 0.0, turning)
        by_cd = by_cd + np.where(self.switched, turning, 0.0)
        size = self.count + 1
        f = np.zeros(size)
        np.add.at(f, self.a, amps)
        np.add.at(f, self.b, -amps)
        jac = np.zeros((size, size))
        for row, sign in ((self.a, 1.0), (self.b, -1.0)):
            np.add.at(jac, (row, self.a), sign * by_ab)
            np.add.at(jac, (row, self.b), -sign * by_ab)
            np.add.at(jac, (row, self.c), sign * by_cd)
            np.add.at(jac, (row, self.d), -sign * by_cd)
        n = self.count
        f = f[:n] + LEAK_S * volts
        jac = jac[:n, :n] + LEAK_S * np.eye(n)
        return f, jac

    def solve(self, start: Floats | None = None) -> tuple[Floats, bool]:
        """Return the volts [N], and whether they settled.

        Every node has a capacitor to ground that is made smaller as the steps succeed: the way a
        circuit finds its state when it is switched on.
        """
        volts = np.zeros(self.count) if start is None else start.copy()
        held = 1e-1 if start is None else 1e-3
        unit = np.eye(self.count)
        worst = np.inf
        for _ in range(MOST_STEPS):
            f, jac = self._system(volts)
            worst = float(np.abs(f).max())
            if worst < DONE_A:
                return volts, True
            step = np.linalg.solve(jac + held * unit, -f)
            most = float(np.abs(step).max())
            # A step that is too wide is a time step that was too long.
            while most > WIDEST_V:
                held *= 4.0
                step = np.linalg.solve(jac + held * unit, -f)
                most = float(np.abs(step).max())
            volts = volts + step
            held = max(held * (0.2 if most < 0.3 else 0.7), 1e-13)
        return volts, worst < 1e-4
