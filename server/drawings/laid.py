"""What a drawing keeps: its paper, its views and its balloons; all on the paper in millimetres from the upper left corner, y downward."""

from dataclasses import asdict, dataclass, field, replace
from typing import Any

from formats.step_lines import VIEWS
from tally_core.basics.errors import Problem, ProblemsError

__all__ = ["PAPERS", "Balloon", "Laid", "View", "of_plain", "plain", "read_laid"]

FORMAT = 1
#: ISO 216, landscape: width and height in millimetres.
PAPERS = {"A4": (297, 210), "A3": (420, 297), "A2": (594, 420), "A1": (841, 594)}
_MOST_VIEWS, _MOST_BALLOONS = 24, 1000


@dataclass(frozen=True, slots=True)
class View:
    """The model from one side. ``scale``: paper for one of the model; ``left_out``: names in the model that are not drawn."""

    key: str
    direction: str
    scale: float
    x: float
    y: float
    hidden: bool = False
    left_out: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Balloon:
    """The number of a line of the sheet, tied to it by the line's lineage, so that it follows the sheet.

    Attributes:
        at: where its leader ends, in the view, millimetres of the model; None: where the part is seen best.
        to: where its middle stands on the paper.
        by_hand: somebody put it there, and nothing moves it.
    """

    line: str
    view: str
    to: tuple[float, float]
    at: tuple[float, float] | None = None
    by_hand: bool = False


@dataclass(frozen=True, slots=True)
class Laid:
    """A drawing. ``off``: classes of parts that get no balloon; ``owner``: whose drawing it is, for the title block."""

    size: str = "A3"
    owner: str = ""
    views: tuple[View, ...] = ()
    balloons: tuple[Balloon, ...] = ()
    off: tuple[str, ...] = field(default=())

    def with_balloons(self, balloons: list[Balloon]) -> "Laid":
        return replace(self, balloons=tuple(balloons))


def plain(laid: Laid) -> dict[str, Any]:
    """As it is kept."""
    return {"format": FORMAT, **asdict(laid)}


def of_plain(value: dict[str, Any]) -> Laid:
    """What was kept, read back."""
    return Laid(
        value["size"],
        value.get("owner", ""),
        tuple(
            View(v["key"], v["direction"], v["scale"], v["x"], v["y"], v.get("hidden", False), tuple(v.get("left_out", ())))
            for v in value["views"]
        ),
        tuple(
            Balloon(
                b["line"],
                b["view"],
                (b["to"][0], b["to"][1]),
                None if b.get("at") is None else (b["at"][0], b["at"][1]),
                b.get("by_hand", False),
            )
            for b in value["balloons"]
        ),
        tuple(value.get("off", ())),
    )


def read_laid(value: dict[str, Any]) -> Laid:
    """A drawing as somebody laid it. Raises ProblemsError for what cannot stand on paper."""
    laid, problems = of_plain(value), []
    if laid.size not in PAPERS:
        problems.append(Problem("size", f"the paper is one of {', '.join(PAPERS)}"))
    if len(laid.views) > _MOST_VIEWS or len(laid.balloons) > _MOST_BALLOONS:
        problems.append(Problem("views", f"a drawing has at most {_MOST_VIEWS} views and {_MOST_BALLOONS} balloons"))
    if len(laid.owner) > 80 or not laid.owner.isprintable():
        problems.append(Problem("owner", "the owner is a line of at most 80 characters"))
    keys = [v.key for v in laid.views]
    if len(set(keys)) < len(keys):
        problems.append(Problem("views", "two views have one key"))
    for at, view in enumerate(laid.views):
        if view.direction not in VIEWS:
            problems.append(Problem(f"views[{at}].direction", f"a view is one of {', '.join(VIEWS)}"))
        if not 0.001 <= view.scale <= 100:
            problems.append(Problem(f"views[{at}].scale", "a scale is from 1:1000 to 100:1"))
        if not all(abs(n) < 2000 for n in (view.x, view.y)):
            problems.append(Problem(f"views[{at}]", "a view stands on the paper"))
    for at, balloon in enumerate(laid.balloons):
        if balloon.view not in keys or not all(abs(n) < 1e6 for n in (*balloon.to, *(balloon.at or ()))):
            problems.append(Problem(f"balloons[{at}]", "a balloon stands beside a view of this drawing"))
    if problems:
        raise ProblemsError(problems)
    return laid
