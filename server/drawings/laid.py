"""What a drawing keeps: its paper, its views and its balloons; all on the paper in millimetres from the upper left corner, y downward."""

from dataclasses import asdict, dataclass, field, replace
from typing import Any

from formats.step_lines import VIEWS
from formats.step_section import CUT_FROM
from geometry.models import section_key
from tally_core.basics.errors import Problem, ProblemsError

__all__ = ["PAPERS", "PICTURE", "Balloon", "Laid", "View", "next_letter", "of_plain", "plain", "read_laid"]

FORMAT = 1
#: ISO 216, landscape: width and height in millimetres.
PAPERS = {"A4": (297, 210), "A3": (420, 297), "A2": (594, 420), "A1": (841, 594)}
PICTURE = "picture"
_MOST_VIEWS, _MOST_BALLOONS, _MOST_STACKED = 24, 1000, 12
#: What sections and details are called by, in this order: letters that are not taken for figures (common practice).
_LETTERS = "ABCDEFGHJKLMNPRSTUVWXYZ"


@dataclass(frozen=True, slots=True)
class View:
    """The model from one side, cut by a plane where it has a ``depth``; or, where it names another view, a detail of that.

    Attributes:
        scale: paper for one of the model.
        left_out: names in the model that are not drawn.
        depth: how far behind the foremost point of the model it is cut, in millimetres.
        of: the key of the view of which this is a detail, and ``box``, what of it: x, y, width and height in millimetres of the model.
        letter: what a section or a detail is called by.
        picture: the key of a picture that was brought in, which it shows instead of the model.
    """

    key: str
    direction: str
    scale: float
    x: float
    y: float
    hidden: bool = False
    left_out: tuple[str, ...] = ()
    depth: float | None = None
    of: str = ""
    box: tuple[float, float, float, float] | None = None
    letter: str = ""
    picture: int | None = None

    @property
    def seen_as(self) -> str:
        """Which view of the model it shows."""
        return self.direction if self.depth is None else section_key(self.direction, self.depth)


@dataclass(frozen=True, slots=True)
class Balloon:
    """The number of a line of the sheet, tied to it by the line's lineage, so that it follows the sheet.

    Attributes:
        more: other lines whose balloons stand beneath this one, on its leader.
        at: where its leader ends, in the view, millimetres of the model; None: where the part is seen best.
        to: where its middle stands on the paper.
        by_hand: somebody put it there, and nothing moves it.
    """

    line: str
    view: str
    to: tuple[float, float]
    at: tuple[float, float] | None = None
    by_hand: bool = False
    more: tuple[str, ...] = ()

    @property
    def lines(self) -> tuple[str, ...]:
        """All lines whose numbers it shows."""
        return (self.line, *self.more)


@dataclass(frozen=True, slots=True)
class Laid:
    """A drawing.

    Attributes:
        owner: whose drawing it is, for the title block.
        off: classes of parts that get no balloon.
        quantities: whether how many stands beside each balloon.
        revisions: whether it lists the revisions of the sheet, and marks what this one changed.
    """

    size: str = "A3"
    owner: str = ""
    views: tuple[View, ...] = ()
    balloons: tuple[Balloon, ...] = ()
    off: tuple[str, ...] = field(default=())
    quantities: bool = False
    revisions: bool = False

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
            View(
                v["key"],
                v["direction"],
                v["scale"],
                v["x"],
                v["y"],
                v.get("hidden", False),
                tuple(v.get("left_out", ())),
                v.get("depth"),
                v.get("of", ""),
                None if v.get("box") is None else (v["box"][0], v["box"][1], v["box"][2], v["box"][3]),
                v.get("letter", ""),
                v.get("picture"),
            )
            for v in value["views"]
        ),
        tuple(
            Balloon(
                b["line"],
                b["view"],
                (b["to"][0], b["to"][1]),
                None if b.get("at") is None else (b["at"][0], b["at"][1]),
                b.get("by_hand", False),
                tuple(b.get("more", ())),
            )
            for b in value["balloons"]
        ),
        tuple(value.get("off", ())),
        value.get("quantities", False),
        value.get("revisions", False),
    )


def next_letter(laid: Laid) -> str:
    """What the next section or detail is called by; empty where all letters are taken."""
    taken = {v.letter for v in laid.views}
    return next((x for x in _LETTERS if x not in taken), "")


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
        if view.picture is not None:
            if view.direction != PICTURE or view.of or view.depth is not None:
                problems.append(Problem(f"views[{at}].picture", "a picture is neither a section nor a detail"))
        elif view.direction not in VIEWS:
            problems.append(Problem(f"views[{at}].direction", f"a view is one of {', '.join(VIEWS)}"))
        if not 0.001 <= view.scale <= 100:
            problems.append(Problem(f"views[{at}].scale", "a scale is from 1:1000 to 100:1"))
        if not all(abs(n) < 2000 for n in (view.x, view.y)):
            problems.append(Problem(f"views[{at}]", "a view stands on the paper"))
        problems += _wrong_cut(laid, view, at)
    for at, balloon in enumerate(laid.balloons):
        if balloon.view not in keys or not all(abs(n) < 1e6 for n in (*balloon.to, *(balloon.at or ()))):
            problems.append(Problem(f"balloons[{at}]", "a balloon stands beside a view of this drawing"))
        if len(balloon.more) > _MOST_STACKED:
            problems.append(Problem(f"balloons[{at}].more", f"at most {_MOST_STACKED} balloons stand beneath another"))
    shown = [line for b in laid.balloons for line in b.lines]
    if len(set(shown)) < len(shown):
        problems.append(Problem("balloons", "a line has one balloon"))
    if problems:
        raise ProblemsError(problems)
    return laid


def _wrong_cut(laid: Laid, view: View, at: int) -> list[Problem]:
    """What does not hold of a section or a detail."""
    if len(view.letter) > 1 or (view.letter and view.letter not in _LETTERS):
        return [Problem(f"views[{at}].letter", "a section or a detail is called by one letter")]
    if view.depth is not None and (view.direction not in CUT_FROM or view.of or not 0 < view.depth < 1e5):
        return [Problem(f"views[{at}].depth", "a section is seen from one of the six sides, and lies behind its foremost point")]
    whole = [v.key for v in laid.views if not v.of and v.picture is None]
    if view.of and (view.of not in whole or view.box is None or not all(abs(n) < 1e6 for n in view.box) or min(view.box[2:]) <= 0):
        return [Problem(f"views[{at}].box", "a detail shows a box of another view of this drawing, which is no detail itself")]
    return []
