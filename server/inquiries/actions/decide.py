"""Decide on lines of an inquiry: take a part, refuse one, leave a line out, open it again; or take the last decision back."""

from typing import Any, TypedDict

from definition.models.parts import Part
from tally_core.basics.errors import Problem, ProblemsError, TallyError
from verbs.contract import writing

from inquiries.deciding import Step, keep, lay_back
from inquiries.lines import counting, held_inquiry
from inquiries.models import Decision, Inquiry, ListLine

__all__ = ["Asked", "Met", "decide", "take_back"]

_VERBS = ("take", "refuse", "out", "open")
#: How a pair may have come about when somebody chose it.
_ROADS = ("remembered", "exact", "near", "by values", "by hand", "new")


class Asked(TypedDict):
    """One decision: ``seen`` is the stamp of the line when somebody decided; ``part`` our number, for take and refuse."""

    line: int
    seen: int
    verb: str
    part: str
    over: bool


class Met(TypedDict):
    """A line that somebody else decided meanwhile, and so was left as it is."""

    line: int
    by: str
    part: str
    state: str
    yours: str


def decide(user, inquiry_id: int, asked: list[Asked]) -> tuple[int, list[ListLine], list[Met]]:
    """Write decisions as one batch. Answers the batch (0: nothing was written), the lines written, and those that met another's decision.

    Raises ProblemsError for a part that is not known or a verb that there is not, and Refused.
    """
    with writing(user, "inquiries"):
        inquiry = held_inquiry(inquiry_id)
        lines = {x.pk: x for x in counting(inquiry).select_related("part").filter(pk__in=[a["line"] for a in asked])}
        parts = {p.number: p for p in Part.objects.filter(number__in=[a["part"] for a in asked if a["part"]])}
        steps: list[Step] = []
        met: list[Met] = []
        problems: list[Problem] = []
        for a in asked:
            line = lines.get(a["line"])
            if line is None or a["verb"] not in _VERBS:
                problems.append(Problem(f"line {a['line']}", "is no line of this inquiry" if line is None else "cannot be done to a line"))
                continue
            part = parts.get(a["part"])
            if a["verb"] in ("take", "refuse") and (part is None or part.kind == "charge"):
                problems.append(
                    Problem(f"row {line.row}", f"part {a['part'][:64]} is not known" if part is None else f"{part.number} is a charge")
                )
                continue
            decided = line.stamp > a["seen"] and line.state != "open" and line.decided_by != str(user)
            if decided and not a["over"]:
                theirs = line.part.number if line.part else ""
                if (line.state, theirs) != ("paired" if a["verb"] == "take" else a["verb"], a["part"] if a["verb"] == "take" else ""):
                    met.append(Met(line=line.pk, by=line.decided_by, part=theirs, state=line.state, yours=a["part"]))
                continue
            steps += _step(line, a["verb"], part)
        if problems:
            raise ProblemsError(problems)
        steps += _of_the_same(inquiry, steps)
        batch = keep(inquiry, steps, user) if steps else 0
        return batch, [s.line for s in steps], met


def _step(line: ListLine, verb: str, part: Part | None) -> list[Step]:
    if verb == "take":
        assert part is not None
        road = next((p["road"] for p in line.proposals if p["part"] == part.number), "by hand")
        if line.state == "paired" and line.part == part:
            return []
        refused = [n for n in line.refused if n != part.number]
        return [Step(line, "take", {"state": "paired", "part": part, "road": road, "refused": refused}, road)]
    if verb == "refuse":
        assert part is not None
        if part.number in line.refused:
            return []
        after: dict[str, Any] = {"refused": [*line.refused, part.number]}
        if line.part == part:
            after |= {"state": "open", "part": None, "road": ""}
        return [Step(line, "refuse", after, part.number)]
    state = "out" if verb == "out" else "open"
    if line.state == state:
        return []
    return [Step(line, verb, {"state": state, "part": None, "road": ""})]


def _of_the_same(inquiry: Inquiry, steps: list[Step]) -> list[Step]:
    """Other open lines of the same things are the same parts, unless somebody refused that for them."""
    taken = {s.line.thing: s.after["part"] for s in steps if s.verb == "take" and s.line.thing}
    if not taken:
        return []
    more = []
    same = counting(inquiry).filter(state="open", thing__in=taken).exclude(pk__in=[s.line.pk for s in steps])
    for line in same.select_related("part"):
        part = taken[line.thing]
        if part.number not in line.refused:
            more += _step(line, "take", part)
    return more


def take_back(user, inquiry_id: int, batch: int) -> list[ListLine]:
    """Take back a batch of decisions; what somebody changed since stays. Answers the lines. Raises TallyError, and Refused."""
    with writing(user, "inquiries"):
        inquiry = held_inquiry(inquiry_id)
        rows = list(Decision.objects.filter(inquiry=inquiry, batch=batch, taken_back_at=None))
        if not rows:
            raise TallyError("This was taken back already.")
        if any(r.by != str(user) for r in rows):
            raise TallyError(f"{rows[0].by} decided this; open the line to decide otherwise.")
        lines = lay_back(inquiry, rows, user)
        if not lines:
            raise TallyError("It was decided otherwise meanwhile; nothing was taken back.")
        return lines
