"""A shape as a line drawing: hidden lines removed, seen from a standard corner. Runs where the geometry kernel runs, in ``formats.step``."""

from typing import Any

__all__ = ["line_drawing"]

#: The longer side of a drawing, in the units of its lines; and how many points it may have.
SIDE, _MOST_POINTS = 1000.0, 60_000
#: Beyond so many faces, lines are found on a mesh: not as fine, and much sooner.
_MOST_EXACT = 1500
#: From the front, the right and above (the viewer's place), and what is right on the paper: an isometric view.
_FROM, _RIGHT = (1.0, -1.0, 1.0), (1.0, 1.0, 0.0)


def line_drawing(shape: Any) -> dict[str, Any] | None:
    """``width``, ``height``, and polylines ``seen`` and ``hidden``: each x, y, x, y …, from the upper left corner, in whole units.

    None for a shape of which nothing can be drawn.
    """
    seen, hidden = _by_mesh(shape) if _faces(shape) > _MOST_EXACT else _exactly(shape)
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

    return {
        "width": round((right - left) * scale), "height": round((high - low) * scale), "seen": placed(seen), "hidden": placed(hidden),
    }  # fmt: skip


def _faces(shape: Any) -> int:
    from OCP.TopAbs import TopAbs_FACE
    from OCP.TopExp import TopExp
    from OCP.TopTools import TopTools_IndexedMapOfShape

    found = TopTools_IndexedMapOfShape()
    TopExp.MapShapes_s(shape, TopAbs_FACE, found)
    return found.Extent()


def _projector() -> Any:
    from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt
    from OCP.HLRAlgo import HLRAlgo_Projector

    return HLRAlgo_Projector(gp_Ax2(gp_Pnt(0, 0, 0), gp_Dir(*_FROM), gp_Dir(*_RIGHT)))


Lines = list[list[tuple[float, float]]]


def _exactly(shape: Any) -> tuple[Lines, Lines]:
    from OCP.HLRBRep import HLRBRep_Algo, HLRBRep_HLRToShape

    algorithm = HLRBRep_Algo()
    algorithm.Add(shape)
    algorithm.Projector(_projector())
    algorithm.Update()
    algorithm.Hide()
    said = HLRBRep_HLRToShape(algorithm)
    # Where faces pass smoothly into one another there is no edge to see; the outline of round ones is one.
    return (
        [*_lines(said.VCompound()), *_lines(said.OutLineVCompound())],
        [*_lines(said.HCompound()), *_lines(said.OutLineHCompound())],
    )


def _by_mesh(shape: Any) -> tuple[Lines, Lines]:
    from OCP.Bnd import Bnd_Box
    from OCP.BRepBndLib import BRepBndLib
    from OCP.BRepMesh import BRepMesh_IncrementalMesh
    from OCP.HLRBRep import HLRBRep_PolyAlgo, HLRBRep_PolyHLRToShape

    box = Bnd_Box()
    BRepBndLib.Add_s(shape, box)
    size = box.CornerMin().Distance(box.CornerMax())
    BRepMesh_IncrementalMesh(shape, size / 400, False, 0.4, False)
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
