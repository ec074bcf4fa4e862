"""What may be done with a cut plan as it stands: asked by every action on one, and beforehand by its screen."""

from tally_core.basics.errors import Problem, ProblemsError

from cutting.models import CutPlan

__all__ = ["answers", "require_now"]


def _why_not(plan: CutPlan, action: str, behind: str) -> str | None:
    if plan.state == "cut":
        return f"{plan.number} was cut by {plan.cut_by}; it stays as it is"
    if action == "change":
        return None
    if plan.said is None:
        return f"{plan.number} has not been made yet"
    stops = [f"{m['part']}: {m['stops']}" for m in plan.said["materials"] if m["stops"]]
    if stops:
        return f"{plan.number} cannot be cut whole. {'; '.join(stops)}"
    return f"{behind} Plan it anew before it is cut." if behind else None


def answers(plan: CutPlan, behind: str) -> dict[str, str | None]:
    """Why a plan cannot be planned anew or let go (``change``), nor be cut (``cut``), null where it can; ``behind``: what moved since."""
    return {action: _why_not(plan, action, behind) for action in ("change", "cut")}


def require_now(plan: CutPlan, action: str, behind: str = "") -> None:
    """Raise ProblemsError where an action cannot be done with a plan as it stands."""
    if refusal := _why_not(plan, action, behind):
        raise ProblemsError([Problem("", refusal)])
