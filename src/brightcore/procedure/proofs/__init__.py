"""What a job has to prove, one family a file; a check is one function, and one line in its list."""

from brightcore.procedure.proofs import after, at_bike, road, stand
from brightcore.procedure.proofs.case import GROUPS, ProofCase, ProofCheck

FAMILIES = (stand.CHECKS, at_bike.CHECKS, road.CHECKS, after.CHECKS)


def proofs_of(case: ProofCase) -> tuple[ProofCheck, ...]:
    """Return everything that a job has to prove, in the order in which it is done; nothing
    twice."""
    found: dict[str, ProofCheck] = {}
    for family in FAMILIES:
        for checks in family:
            for item in checks(case):
                found.setdefault(item.id, item)
    order = list(GROUPS)
    return tuple(sorted(found.values(), key=lambda item: order.index(item.group)))


def proof(case: ProofCase, proof_id: str) -> ProofCheck | None:
    """Return one check of a job, None where it does not have it (any more)."""
    return next((item for item in proofs_of(case) if item.id == proof_id), None)
