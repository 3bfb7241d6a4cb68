"""Afterwards: what is looked at again (common practice)."""

from collections.abc import Iterator

from brightcore.kinds.select import hub_motors, packs
from brightcore.procedure.proofs.case import Checks, ProofCase, ProofCheck


def axle(case: ProofCase) -> Iterator[ProofCheck]:
    """Axle nuts after the first ride."""
    for part in hub_motors(case.bike):
        if case.any([part]):
            yield ProofCheck(
                f"axle:{part.id}",
                "after",
                f"Axle nuts of {part.name} after the first ride",
                "Torque arm seated, nuts to the maker's torque; mark them.",
                "Nothing has moved.",
                case.because([part]),
                ("wire", "Seat axle washers and torque arm again; do not ride."),
                (),
            )


def first_charge(case: ProofCase) -> Iterator[ProofCheck]:
    """A pack's first charge, attended."""
    for part in packs(case.bike):
        if case.any([part]):
            yield ProofCheck(
                f"charge:{part.id}",
                "after",
                f"First charge of {part.name}, attended",
                "Its own charger, on a floor that does not burn; somebody stays.",
                "Ends by itself, hand-warm at most.",
                case.because([part]),
                ("arrive", "Look at the pack again: it may have to be quarantined."),
                ("charging",),
            )


CHECKS: tuple[Checks, ...] = (axle, first_charge)
