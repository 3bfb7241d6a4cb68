"""At the bike, at rest: what moves and is taken out (common practice)."""

from collections.abc import Iterator

from brightcore.kinds.pack import PackSpec
from brightcore.procedure.proofs.case import Checks, ProofCase, ProofCheck
from brightcore.wiring.frames import JOINT_WORDS
from brightcore.wiring.routes import Run, frame_of, runs_of

IN_WIRE = ("wire", "Look at the way of the cable on Wire: slack, ties, sleeve.")
MOVES = {
    "steering": (
        "Bars to full lock left and right, slowly, display on, a touch of motor at both ends."
    ),
    "suspension": "Press it through its whole travel, front and rear.",
    "fold": "Fold and unfold it whole, three times.",
}


def moved(case: ProofCase) -> Iterator[ProofCheck]:
    """Every joint that a touched cable passes."""
    joints = set()
    for stretch in frame_of(case.bike).stretches:
        if stretch.joint:
            joints.add(stretch.joint)
    passed = set()
    for run in runs_of(case.bike):
        if _touched(case, run):
            for s in run.path:
                if s.joint:
                    passed.add(s.joint)
    for joint in sorted(joints if case.whole else passed):
        yield ProofCheck(
            f"move:{joint}",
            "bike",
            f"{JOINT_WORDS[joint][0].upper()}{JOINT_WORDS[joint][1:]} through its whole travel",
            MOVES[joint],
            "Nothing pulls, pinches or rubs; nothing flickers.",
            "A cable passes there",
            IN_WIRE,
        )


def _touched(case: ProofCase, run: Run) -> bool:
    ends = {end.partition(".")[0] for end in run.ends}
    return bool((case.touched | case.disturbed) & (set(run.cables) | ends))


def pack_out_and_in(case: ProofCase) -> Iterator[ProofCheck]:
    """Packs go out and in."""
    for part in case.bike.having(PackSpec):
        if case.any([part]):
            yield ProofCheck(
                f"seat:{part.id}",
                "bike",
                f"{part.name} goes out and in",
                "Off, out, in, locked, on; twice. Shake it.",
                "Sits without play, locks, comes on.",
                case.because([part]),
                IN_WIRE,
                ("pack_safe",),
            )


CHECKS: tuple[Checks, ...] = (moved, pack_out_and_in)
