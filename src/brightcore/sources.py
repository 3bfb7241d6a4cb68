"""Where formulas, tables and figures come from; each is named once.

`kind` is one of: std (published), lib (a reference library), cp (common practice of the
trade, no source), mem (written from memory, not re-read in the source).
"""

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Source:
    """One source of a formula or figure."""

    id: str
    kind: str
    text: str


_ALL = (
    Source("common-practice", "cp", "common practice of the trade, no published source"),
    Source("iec-60028", "std", "IEC 60028: annealed copper 1.7241e-8 Ω·m at 20 °C, +0.393 %/K"),
    Source(
        "vde-0298",
        "std",
        (
            "DIN VDE 0298-4: currents of single flexible cores with PVC, free in air at 30 °C, "
            "for long"
        ),
    ),
    Source("astm-b258", "std", "ASTM B258: AWG diameter 0.127 mm × 92^((36−n)/39)"),
    Source("iso-5775", "std", "ISO 5775-1: circumference π × (bead seat + 2 × width)"),
    Source(
        "chen-2020",
        "std",
        "Chen et al., J. Electrochem. Soc. 167 (2020) 080534: open-circuit volts of a nickel-rich "
        "21700 cell against state of charge",
    ),
    Source(
        "steinhart-1968",
        "std",
        (
            "Steinhart and Hart, Deep-Sea Research 15 (1968) 497; two-parameter form "
            "R25·exp(B(1/T − 1/T25))"
        ),
    ),
    Source(
        "dekleer-1987",
        "std",
        (
            "de Kleer and Williams, Diagnosing multiple faults, Artificial Intelligence 32 "
            "(1987) 97–130"
        ),
    ),
    Source(
        "heckerman-1995",
        "mem",
        "Heckerman, Breese and Rommelse, Decision-theoretic troubleshooting, Communications of "
        "the ACM 38 (1995) 49–57",
    ),
    Source(
        "martin-1998",
        "mem",
        "Martin et al., Validation of a mathematical model for road cycling power, J. Appl. "
        "Biomech. 14 (1998) 276–291",
    ),
    Source("iso-2533", "std", "ISO 2533 standard atmosphere: 1.225 kg/m³ at 15 °C, sea level"),
    Source(
        "hanselman",
        "std",
        "Hanselman, Brushless Permanent Magnet Motor Design, 2nd ed., ch. 4: Kt = 60/(2π·Kv), "
        "equivalent DC machine",
    ),
    Source(
        "wilson",
        "mem",
        "Wilson and Schmidt, Bicycling Science, 4th ed.: drag areas and rolling coefficients",
    ),
    Source(
        "willis",
        "std",
        "Willis equation for planetary trains: ring fixed, sun in, carrier out, ratio 1 + ring/sun",
    ),
    Source(
        "law",
        "mem",
        "Regulation (EU) 168/2013 and EN 15194; UK 1983 regulations as amended; 15 U.S.C. 2085 and "
        "three-class state laws; Canada; Australia",
    ),
    Source(
        "iec-61140", "mem", "IEC 61140: 60 V DC as the limit of extra-low voltage, dry conditions"
    ),
)

SOURCES = {source.id: source for source in _ALL}
