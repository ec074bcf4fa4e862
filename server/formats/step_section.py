"""An assembly cut by a plane and seen from one side. Runs where the geometry kernel runs, in ``formats.step``."""

from typing import Any

from formats.step_lines import DIRECTIONS, across, view_of

__all__ = ["CUT_FROM", "section_of"]

#: The sides from which a section is seen; it lies in their plane.
CUT_FROM = ("front", "back", "right", "left", "top", "bottom")
#: How finely the outline of a cut face follows its edges, in millimetres and in radians.
_FINE = (0.1, 0.1)


def section_of(components: list[tuple[str, Any]], side: str, depth: float) -> dict[str, Any] | None:
    """What stands behind a plane, as ``formats.step_lines`` has views, each thing with the outlines of its ``cut`` faces in rings x, y, x, y …

    With ``plane``: the axis of the model that it is square to (0, 1, 2), and where on that axis it lies; and ``uncut``: names of what the kernel could not
    cut, and which stand whole.

    Args:
        side: one of :data:`CUT_FROM`.
        depth: how far behind the foremost point of the model the plane lies, in millimetres.

    None where nothing stands behind it, or nothing can be drawn.
    """
    toward = DIRECTIONS[side][0]
    axis = next(i for i in range(3) if toward[i])
    way = toward[axis]
    spans = [_span(shape, axis) for _, shape in components]
    held = [s for s in spans if s is not None]
    if not held:
        return None
    at = max(high for _, high in held) - depth if way > 0 else min(low for low, _ in held) + depth
    kept: list[tuple[str, Any]] = []
    faces: list[list[Any]] = []
    uncut = []
    for (name, shape), span in zip(components, spans, strict=True):
        if span is None:
            continue
        near, far = (span[1], span[0]) if way > 0 else (span[0], span[1])
        if way * (far - at) >= 0:
            continue
        behind: Any = shape
        cut: list[Any] = []
        if way * (near - at) > 0:
            try:
                behind, cut = _behind(shape, axis, at, way)
            except Exception:
                # Of the kernel's own kind: what it cannot cut is drawn whole, and said.
                uncut.append(name)
        kept.append((name, behind))
        faces.append(cut)
    view = view_of(kept, side) if kept else None
    if view is None:
        return None
    right, up = across(side)
    left, high = view["origin"]
    for part, cut in zip(view["parts"], faces, strict=True):
        part["cut"] = [[v for p in ring for v in (round(_dot(p, right) - left, 2), round(high - _dot(p, up), 2))] for ring in cut]
    return {**view, "plane": [axis, round(at, 4)], "uncut": sorted(set(uncut))}


def _dot(a: tuple[float, ...], b: tuple[float, ...]) -> float:
    return sum(x * y for x, y in zip(a, b, strict=True))


def _span(shape: Any, axis: int) -> tuple[float, float] | None:
    from OCP.Bnd import Bnd_Box
    from OCP.BRepBndLib import BRepBndLib

    box = Bnd_Box()
    BRepBndLib.AddOptimal_s(shape, box, False, False)
    if box.IsVoid():
        return None
    low, high = box.CornerMin(), box.CornerMax()
    return (low.X(), high.X()) if axis == 0 else (low.Y(), high.Y()) if axis == 1 else (low.Z(), high.Z())


def _behind(shape: Any, axis: int, at: float, way: float) -> tuple[Any, list[Any]]:
    """What of a shape lies behind the plane, and rings of points around the faces that the cut made."""
    from OCP.Bnd import Bnd_Box
    from OCP.BRepAlgoAPI import BRepAlgoAPI_Common
    from OCP.BRepBndLib import BRepBndLib
    from OCP.BRepPrimAPI import BRepPrimAPI_MakeBox
    from OCP.gp import gp_Pnt

    box = Bnd_Box()
    BRepBndLib.Add_s(shape, box)
    corners = (box.CornerMin(), box.CornerMax())
    low, high = ([p.X(), p.Y(), p.Z()] for p in corners)
    for i in range(3):
        low[i], high[i] = low[i] - 1, high[i] + 1
    (high if way > 0 else low)[axis] = at
    common = BRepAlgoAPI_Common(shape, BRepPrimAPI_MakeBox(gp_Pnt(*low), gp_Pnt(*high)).Shape())
    if not common.IsDone():
        raise RuntimeError("not cut")
    behind = common.Shape()
    rings = _rings(behind, axis, at)
    if not rings:
        # It lies on both sides of the plane and yet nothing of it was cut: a shape that bounds nothing, or a failure that was not told.
        raise RuntimeError("not cut")
    return behind, rings


def _rings(shape: Any, axis: int, at: float) -> list[Any]:
    from OCP.BRepAdaptor import BRepAdaptor_Surface
    from OCP.BRepTools import BRepTools_WireExplorer
    from OCP.GeomAbs import GeomAbs_Plane
    from OCP.TopAbs import TopAbs_FACE, TopAbs_WIRE
    from OCP.TopExp import TopExp_Explorer
    from OCP.TopoDS import TopoDS

    found = []
    faces = TopExp_Explorer(shape, TopAbs_FACE)
    while faces.More():
        face = TopoDS.Face_s(faces.Current())
        faces.Next()
        surface = BRepAdaptor_Surface(face)
        if surface.GetType() != GeomAbs_Plane:
            continue
        place, normal = surface.Plane().Location(), surface.Plane().Axis().Direction()
        if abs(abs((normal.X(), normal.Y(), normal.Z())[axis]) - 1) > 1e-6 or abs((place.X(), place.Y(), place.Z())[axis] - at) > 1e-5:
            continue
        wires = TopExp_Explorer(face, TopAbs_WIRE)
        while wires.More():
            ring: list[tuple[float, float, float]] = []
            edges = BRepTools_WireExplorer(TopoDS.Wire_s(wires.Current()), face)
            while edges.More():
                ring += _along(edges.Current())
                edges.Next()
            wires.Next()
            if len(ring) > 2:
                found.append(ring)
    return found


def _along(edge: Any) -> list[tuple[float, float, float]]:
    """Points along an edge in the way it is gone in its wire, without its last."""
    from OCP.BRepAdaptor import BRepAdaptor_Curve
    from OCP.GCPnts import GCPnts_TangentialDeflection
    from OCP.TopAbs import TopAbs_REVERSED

    curve = GCPnts_TangentialDeflection(BRepAdaptor_Curve(edge), _FINE[1], _FINE[0])
    points = [(p.X(), p.Y(), p.Z()) for p in (curve.Value(i) for i in range(1, curve.NbPoints() + 1))]
    return points[::-1][:-1] if edge.Orientation() == TopAbs_REVERSED else points[:-1]
