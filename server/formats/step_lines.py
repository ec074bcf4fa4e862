"""A shape as a line drawing: hidden lines removed, seen from a standard corner. Runs where the geometry kernel runs, in ``formats.step``."""

from collections.abc import Callable
from itertools import pairwise
from typing import Any, TypeVar

__all__ = ["DIRECTIONS", "VIEWS", "across", "line_drawing", "view_of", "views_of"]

#: The longer side of a drawing, in the units of its lines; and how many points it may have.
SIDE, _MOST_POINTS = 1000.0, 60_000
#: Beyond so many faces, lines are found on a mesh: not as fine, and much sooner.
_MOST_EXACT = 1500
#: For each view where it is seen from, and what is right on the paper; the first is the standard corner.
DIRECTIONS = {
    "isometric": ((1.0, -1.0, 1.0), (1.0, 1.0, 0.0)),
    "isometric, from the left": ((-1.0, -1.0, 1.0), (1.0, -1.0, 0.0)),
    "front": ((0.0, -1.0, 0.0), (1.0, 0.0, 0.0)),
    "back": ((0.0, 1.0, 0.0), (-1.0, 0.0, 0.0)),
    "right": ((1.0, 0.0, 0.0), (0.0, 1.0, 0.0)),
    "left": ((-1.0, 0.0, 0.0), (0.0, -1.0, 0.0)),
    "top": ((0.0, 0.0, 1.0), (1.0, 0.0, 0.0)),
    "bottom": ((0.0, 0.0, -1.0), (1.0, 0.0, 0.0)),
}
#: Up to so many things in it, an assembly is drawn from every side; up to so many, from the standard corner; beyond, not thing by thing: telling their
#: lines apart takes the square of their number.
_MOST_SIDES, _MOST_APART = 150, 500
#: An assembly taken apart, from the standard corner; and by how much more things stand from its middle.
EXPLODED, _FARTHER = "exploded", 1.2
#: Every view there may be, in the order in which they are offered.
VIEWS = (*DIRECTIONS, EXPLODED)

Lines = list[list[tuple[float, float]]]
T = TypeVar("T")


def across(direction: str) -> tuple[tuple[float, float, float], tuple[float, float, float]]:
    """What is right and what is up on paper, seen from a side.

    >>> across("front"), across("top")
    (((1.0, 0.0, 0.0), (0.0, 0.0, 1.0)), ((1.0, 0.0, 0.0), (0.0, 1.0, 0.0)))
    """
    (a, b, c), (x, y, z) = DIRECTIONS[direction]
    # Adding nought leaves no nought with a sign.
    return (x, y, z), (b * z - c * y + 0.0, c * x - a * z + 0.0, a * y - b * x + 0.0)


def line_drawing(shape: Any) -> dict[str, Any] | None:
    """``width``, ``height``, and polylines ``seen`` and ``hidden``: each x, y, x, y …, from the upper left corner, in whole units.

    None for a shape of which nothing can be drawn.
    """
    found = _tried(*[lambda: _by_mesh(shape)] if _faces(shape) > _MOST_EXACT else [lambda: _exactly(shape), lambda: _by_mesh(shape)])
    if found is None:
        return None
    seen, hidden = found
    everything = [point for line in seen + hidden for point in line]
    if not seen or len(everything) > _MOST_POINTS:
        return None
    left, right = min(x for x, _ in everything), max(x for x, _ in everything)
    low, high = min(y for _, y in everything), max(y for _, y in everything)
    scale = SIDE / max(right - left, high - low, 1e-9)

    def placed(lines: list[list[tuple[float, float]]]) -> list[list[int]]:
        found = []
        for line in lines:
            flat = [value for x, y in line for value in (round((x - left) * scale), round((high - y) * scale))]
            if len(set(zip(flat[::2], flat[1::2], strict=True))) > 1:
                found.append(flat)
        return found

    return {"width": round((right - left) * scale), "height": round((high - low) * scale), "seen": placed(seen), "hidden": placed(hidden)}


def views_of(components: list[tuple[str, Any]]) -> dict[str, dict[str, Any]]:
    """An assembly as each of :data:`VIEWS`, each thing in it by itself, as :func:`view_of` has it."""
    found: dict[str, dict[str, Any]] = {}
    if len(components) > _MOST_APART:
        return found
    for name in DIRECTIONS if len(components) <= _MOST_SIDES else ("isometric",):
        view = view_of(components, name)
        if view is not None:
            found[name] = view
    if 1 < len(components) <= _MOST_SIDES and (view := view_of(_taken_apart(components), "isometric")) is not None:
        found[EXPLODED] = view
    return found


def _taken_apart(components: list[tuple[str, Any]]) -> list[tuple[str, Any]]:
    """Each further from the middle of all, in the direction in which it stands from there."""
    from OCP.Bnd import Bnd_Box
    from OCP.BRepBndLib import BRepBndLib
    from OCP.gp import gp_Trsf, gp_Vec
    from OCP.TopLoc import TopLoc_Location

    whole = Bnd_Box()
    middles: list[Any] = []
    for _, shape in components:
        box = Bnd_Box()
        BRepBndLib.Add_s(shape, box)
        if box.IsVoid():
            middles.append(None)
            continue
        whole.Add(box)
        middles.append(_center(box))
    if whole.IsVoid():
        return components
    found = []
    for (name, shape), middle in zip(components, middles, strict=True):
        move = gp_Trsf()
        if middle is not None:
            move.SetTranslation(gp_Vec(_center(whole), middle).Multiplied(_FARTHER))
        found.append((name, shape.Moved(TopLoc_Location(move))))
    return found


def _center(box: Any) -> Any:
    from OCP.gp import gp_Pnt

    low, high = box.CornerMin(), box.CornerMax()
    return gp_Pnt((low.X() + high.X()) / 2, (low.Y() + high.Y()) / 2, (low.Z() + high.Z()) / 2)


def view_of(components: list[tuple[str, Any]], direction: str) -> dict[str, Any] | None:
    """Things where they stand, seen from one side; None where nothing can be drawn.

    ``width`` and ``height`` in millimetres; ``origin``, where the upper left corner lies among what is right and what is up of the model; and ``parts`` in
    the order given: ``name``, polylines ``seen`` and ``hidden`` (x, y, x, y … in millimetres from the upper left corner), ``at``, a point of it that is
    seen, and ``length``, how much of its edges is. One of which nothing is seen has no ``at``.
    """
    lines = _tried(lambda: _parts_by_mesh(components, direction), lambda: _parts_by_mesh(_copied(components), direction))
    if lines is None:
        return None
    everything = [point for seen, hidden in lines for line in seen + hidden for point in line]
    if not everything or len(everything) > 4 * _MOST_POINTS:
        return None
    left, high = min(x for x, _ in everything), max(y for _, y in everything)
    width, height = max(x for x, _ in everything) - left, high - min(y for _, y in everything)

    def flat(some: Lines) -> list[list[float]]:
        return [[v for x, y in line for v in (round(x - left, 2), round(high - y, 2))] for line in some]

    parts = []
    for (name, _), (seen, hidden) in zip(components, lines, strict=True):
        longest = max(seen, key=_length, default=None)
        at = None if longest is None or not _length(longest) else _middle(longest)
        parts.append(
            {
                "name": name,
                "seen": flat(seen),
                "hidden": flat(hidden),
                "length": round(sum(map(_length, seen)), 1),
                "at": None if at is None else [round(at[0] - left, 2), round(high - at[1], 2)],
            }
        )
    return {"width": round(width, 2), "height": round(height, 2), "origin": [round(left, 4), round(high, 4)], "parts": parts}


def _tried(*ways: Callable[[], T]) -> T | None:
    """What the first of some ways gives that the kernel does not stumble over: now and then it does, over one mesh of a shape and not over another."""
    for way in ways:
        try:
            return way()
        except Exception:
            continue
    return None


def _copied(components: list[tuple[str, Any]]) -> list[tuple[str, Any]]:
    """The same shapes, of which nothing was meshed yet."""
    from OCP.BRepBuilderAPI import BRepBuilderAPI_Copy

    return [(name, BRepBuilderAPI_Copy(shape, True, False).Shape()) for name, shape in components]


def _length(line: list[tuple[float, float]]) -> float:
    return sum(((x - u) ** 2 + (y - v) ** 2) ** 0.5 for (u, v), (x, y) in pairwise(line))


def _middle(line: list[tuple[float, float]]) -> tuple[float, float]:
    """The point half way along a line."""
    left = _length(line) / 2
    for (u, v), (x, y) in pairwise(line):
        piece = ((x - u) ** 2 + (y - v) ** 2) ** 0.5
        if piece >= left > 0:
            return u + (x - u) * left / piece, v + (y - v) * left / piece
        left -= piece
    return line[-1]


def _parts_by_mesh(components: list[tuple[str, Any]], direction: str) -> list[tuple[Lines, Lines]]:
    """Lines seen and hidden of each; on a mesh, since faces of several parts that lie in one plane take the exact way minutes."""
    from OCP.HLRBRep import HLRBRep_PolyAlgo, HLRBRep_PolyHLRToShape

    algorithm = HLRBRep_PolyAlgo()
    for _, shape in components:
        _meshed(shape)
        algorithm.Load(shape)
    algorithm.Projector(_projector(direction))
    algorithm.Update()
    said = HLRBRep_PolyHLRToShape()
    said.Update(algorithm)
    return [
        (
            _joined([*_lines(said.VCompound(shape)), *_lines(said.OutLineVCompound(shape))]),
            _joined([*_lines(said.HCompound(shape)), *_lines(said.OutLineHCompound(shape))]),
        )
        for _, shape in components
    ]


def _joined(lines: Lines) -> Lines:
    """Pieces that meet, two at a point, as one line: a mesh gives a circle as many short ones."""
    ends: dict[tuple[float, float], list[int]] = {}
    pieces: dict[int, list[tuple[float, float]]] = {}
    for at, line in enumerate(lines):
        if len(line) > 1 and _key(line[0]) != _key(line[-1]):
            pieces[at] = line
            for end in (line[0], line[-1]):
                ends.setdefault(_key(end), []).append(at)
    whole = [line for at, line in enumerate(lines) if at not in pieces and len(line) > 1]
    while pieces:
        at, chain = pieces.popitem()
        # On from its end, and then, turned round, on from its beginning.
        for _ in range(2):
            last = at
            while True:
                meeting = ends[_key(chain[-1])]
                following = next((x for x in meeting if x != last and x in pieces), None)
                if len(meeting) != 2 or following is None:
                    break
                line = pieces.pop(following)
                chain = chain + (line if _key(line[0]) == _key(chain[-1]) else line[::-1])[1:]
                last = following
            chain = chain[::-1]
        whole.append(chain)
    return whole


def _key(point: tuple[float, float]) -> tuple[float, float]:
    return round(point[0], 3), round(point[1], 3)


def _meshed(shape: Any) -> None:
    from OCP.Bnd import Bnd_Box
    from OCP.BRepBndLib import BRepBndLib
    from OCP.BRepMesh import BRepMesh_IncrementalMesh

    box = Bnd_Box()
    BRepBndLib.Add_s(shape, box)
    BRepMesh_IncrementalMesh(shape, box.CornerMin().Distance(box.CornerMax()) / 800, False, 0.2, False)


def _faces(shape: Any) -> int:
    from OCP.TopAbs import TopAbs_FACE
    from OCP.TopExp import TopExp
    from OCP.TopTools import TopTools_IndexedMapOfShape

    found = TopTools_IndexedMapOfShape()
    TopExp.MapShapes_s(shape, TopAbs_FACE, found)
    return found.Extent()


def _projector(direction: str = "isometric") -> Any:
    from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt
    from OCP.HLRAlgo import HLRAlgo_Projector

    seen_from, right = DIRECTIONS[direction]
    return HLRAlgo_Projector(gp_Ax2(gp_Pnt(0, 0, 0), gp_Dir(*seen_from), gp_Dir(*right)))


def _exactly(shape: Any) -> tuple[Lines, Lines]:
    from OCP.HLRBRep import HLRBRep_Algo, HLRBRep_HLRToShape

    algorithm = HLRBRep_Algo()
    algorithm.Add(shape)
    algorithm.Projector(_projector())
    algorithm.Update()
    algorithm.Hide()
    said = HLRBRep_HLRToShape(algorithm)
    # Where faces pass smoothly into one another there is no edge to see; the outline of round ones is one.
    return ([*_lines(said.VCompound()), *_lines(said.OutLineVCompound())], [*_lines(said.HCompound()), *_lines(said.OutLineHCompound())])


def _by_mesh(shape: Any) -> tuple[Lines, Lines]:
    from OCP.HLRBRep import HLRBRep_PolyAlgo, HLRBRep_PolyHLRToShape

    _meshed(shape)
    algorithm = HLRBRep_PolyAlgo()
    algorithm.Load(shape)
    algorithm.Projector(_projector())
    algorithm.Update()
    said = HLRBRep_PolyHLRToShape()
    said.Update(algorithm)
    return [*_lines(said.VCompound()), *_lines(said.OutLineVCompound())], []


def _lines(compound: Any) -> Lines:
    from OCP.BRepAdaptor import BRepAdaptor_Curve
    from OCP.BRepLib import BRepLib
    from OCP.GCPnts import GCPnts_TangentialDeflection
    from OCP.TopAbs import TopAbs_EDGE
    from OCP.TopExp import TopExp_Explorer
    from OCP.TopoDS import TopoDS

    if compound is None or compound.IsNull():
        return []
    BRepLib.BuildCurves3d_s(compound)
    found = []
    edges = TopExp_Explorer(compound, TopAbs_EDGE)
    while edges.More():
        curve = GCPnts_TangentialDeflection(BRepAdaptor_Curve(TopoDS.Edge_s(edges.Current())), 0.15, 0.5)
        points = [curve.Value(i) for i in range(1, curve.NbPoints() + 1)]
        found.append([(p.X(), p.Y()) for p in points])
        edges.Next()
    return found
