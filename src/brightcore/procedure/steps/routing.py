"""Along the frame: extensions, ways, and everything that moves moved once."""

from brightcore.kinds.select import is_pedalled
from brightcore.procedure.step import WorkStep
from brightcore.procedure.steps.base import LEFT_OVER, MOVE, POWER_UP, ROUTE, Steps, fit
from brightcore.procedure.work_case import WorkCase
from brightcore.wiring.cut_list import up
from brightcore.wiring.routes import Run, frame_of, runs_of

JOINTS = {
    "steering": "bars full left and right",
    "suspension": "suspension through its full travel",
    "fold": "folded and unfolded without pinch or pull",
}


def routing(case: WorkCase) -> Steps:
    """Routes of the cables that this job has put in."""
    if not case.made and not case.fitted:
        return
    own = [run for run in runs_of(case.plan) if _is_own(case, run)]
    longer = []
    for run in own:
        if run.verdict == "short":
            step = WorkStep(
                f"longer:{run.id}",
                f"{run.title}: an extension of {up(run.wanted_m - run.has_m):.2f} m",
                (POWER_UP,),
                "Pulled tight, it tears out at the first full lock.",
            )
            longer.append(step.id)
            yield step
    fitted = tuple(fit(part) for part in case.fitted)
    plugs: dict[str, None] = {}
    for part in case.plan.parts:
        plugs |= dict.fromkeys(case.plugs_of(part))
    chain = "tyre or chain" if is_pedalled(case.plan) else "tyre"
    yield WorkStep(
        ROUTE,
        "Route: plugs point down, drip loops, slack at what moves, nothing at the fork crown, "
        f"{chain}; ties loose",
        (POWER_UP, LEFT_OVER, *longer, *fitted, *plugs),
        "A cable that is too short shows only after the rest is routed.",
    )
    joints = set()
    for stretch in frame_of(case.plan).stretches:
        if stretch.joint:
            joints.add(stretch.joint)
    words = [JOINTS[name] for name in JOINTS if name in joints]
    if words:
        yield WorkStep(MOVE, f"{', '.join(words).capitalize()}: nothing pulls or pinches", (ROUTE,))


def _is_own(case: WorkCase, run: Run) -> bool:
    """Return whether this job has anything to do with a way: one of its plugs or cables is new."""
    new = {part.id for part in case.fitted}
    made = {join.id for join in case.made}
    return bool(new & set(run.cables) or made & set(run.joins))
