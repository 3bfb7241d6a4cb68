"""A cheap handheld meter of its own: loading, accuracy, digits, leads, test current."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from strangers.solver import Branch, Piece

LINE = float("inf")

Reads = Callable[[Branch, str, str], tuple[float, bool]]
"""Volts between two names with one branch more, and whether that settled."""


@dataclass(frozen=True, slots=True)
class Meter:
    """One meter as it lies on a bench."""

    input_ohm: float
    ratio: float
    lead_ohm: float
    open_v: float
    short_a: float

    @classmethod
    def of(cls, rng: np.random.Generator) -> "Meter":
        """Return some meter: most of 10 MΩ, some of 1 MΩ."""
        return cls(
            float(rng.choice([10e6, 10e6, 10e6, 1e6])),
            float(rng.normal(0.0, 0.004)),
            float(rng.uniform(0.08, 0.25)),
            float(rng.choice([0.4, 0.6, 1.2, 2.8])),
            float(rng.uniform(0.4e-3, 1.2e-3)),
        )

    def load(self, red: str, black: str) -> Branch:
        """Return the meter on volts as a branch."""
        return Branch("meter", red, black, (Piece(LINE, 1.0 / self.input_ohm, 0.0, 0.0),))

    def feed(self, red: str, black: str, top: float) -> Branch:
        """Return the meter on a range of ohms as a branch: a source behind a resistance."""
        behind = self.behind_ohm(top)
        return Branch("meter", red, black, (Piece(LINE, 1.0 / behind, 0.0, -self.open_v / behind),))

    def behind_ohm(self, top: float) -> float:
        """Return the resistance behind the source on a range."""
        return self.open_v / self.short_a * max(top / 200.0, 1.0)

    def shown_v(self, volt: float) -> str:
        """Return volts as its digits show them."""
        value = volt * (1 + self.ratio)
        digits = 3 if abs(value) < 2 else 2 if abs(value) < 20 else 1
        return f"{value:.{digits}f} V"

    def ohms(self, net_with: Reads, red: str, black: str) -> str:
        """Return ohms as shown, going up its ranges; `net_with` gives a net with one more branch
        and the number of two nodes."""
        for top in (200.0, 2e3, 20e3, 200e3, 2e6):
            across, settled = net_with(self.feed(red, black, top), red, black)
            if not settled:
                continue
            rest = self.open_v - across
            if rest <= 1e-6:
                continue
            read = max(across, 0.0) * self.behind_ohm(top) / rest + self.lead_ohm
            if read <= top:
                value = read * (1 + self.ratio)
                digits = 1 if top <= 200 else 0
                return f"{value:.{digits}f} Ω"
        return "OL"
