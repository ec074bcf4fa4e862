"""Sheet metal in a model (rule M3): recognised, and unfolded to its flat outline. Runs where the geometry kernel runs, in ``formats.step``.

A part of one thickness whose skin is flat faces joined by bends: from the largest flat face the skin is followed over edges where it passes smoothly into a cylinder
and on into the next flat face. Each face is laid into the plane of the first; a bend of inner radius R and angle θ takes (R + K·T)·θ of it.
"""

from math import acos, degrees
from typing import Any

__all__ = ["K", "sheet_metal"]

#: Where the neutral line lies in a bend, as a share of the thickness from its inside (rule M3).
K = 0.44
_SMOOTH, _SAME = 0.9995, 1e-4
#: How far the volume may be from thickness times the middle of the skin: more, and it is of no one thickness.
_OFF = 0.02
_MOST_FACES = 2000

Vector = tuple[float, float, float]


class _NoSheet(Exception):
    """Why a part is no sheet metal, or cannot be unfolded, in words."""


def sheet_metal(shape: Any, k: float = K) -> dict[str, Any]:
    """``thickness``, ``bends`` with ``radius`` and ``angle``, ``flat`` sides, ``cut_length``, ``cutouts`` and ``outline`` (rings x, y, x, y …, the outer first), all in
    millimetres and degrees; or ``not`` with why it is none."""
    try:
        return _unfolded(shape, k)
    except _NoSheet as why:
        return {"not": str(why)}


def _unfolded(shape: Any, k: float) -> dict[str, Any]:
    from shapely import MultiPolygon, minimum_rotated_rectangle, union_all

    faces = [_Face(face) for face in _faces(shape)]
    if not 5 < len(faces) <= _MOST_FACES:
        raise _NoSheet("it has too few or too many faces for a part bent from sheet")
    flats = [f for f in faces if f.normal is not None]
    if not flats:
        raise _NoSheet("it has no flat face")
    first = max(flats, key=lambda f: f.area)
    thickness = _thickness(first, flats)
    meets = _neighbours(faces)
    placed: dict[int, _Laid] = {first.index(faces): _first_laid(first)}
    bends: list[dict[str, float]] = []
    skin, waiting = [first], [faces.index(first)]
    while waiting:
        at = waiting.pop()
        here, laid = faces[at], placed[at]
        for bend_at, edge in meets[at]:
            bend = faces[bend_at]
            if bend_at in placed or bend.axis is None or not _smooth(here, bend, edge):
                continue
            inner = bend.radius if bend.hollow else bend.radius - thickness
            if inner < -_SAME:
                raise _NoSheet("a bend is tighter than the sheet is thick")
            beyond = [(x, e) for x, e in meets[bend_at] if x != at and faces[x].normal is not None and _smooth(faces[x], bend, e)]
            if len(beyond) != 1:
                raise _NoSheet("a bend does not lead from one flat face to one other")
            other_at, other_edge = beyond[0]
            if other_at in placed:
                raise _NoSheet("its faces close in a ring, which cannot be laid flat")
            other = faces[other_at]
            angle = acos(max(-1.0, min(1.0, _dot(here.normal or (0, 0, 0), other.normal or (0, 0, 0)))))
            allowance = (max(inner, 0.0) + k * thickness) * angle
            placed[bend_at], placed[other_at] = _over(here, laid, edge, bend, other, other_edge, angle, allowance)
            bends.append({"radius": round(max(inner, 0.0), 3), "angle": round(degrees(angle), 2)})
            skin += [bend, other]
            waiting.append(other_at)
    outline = (
        union_all([placed[faces.index(f)].polygon(f) for f in skin]).buffer(0.002, join_style="mitre").buffer(-0.002, join_style="mitre")
    )
    if isinstance(outline, MultiPolygon) or outline.is_empty:
        raise _NoSheet("its flat faces do not join to one piece")
    middle = sum(f.area for f in skin if f.normal is not None) + sum(
        f.area / f.radius * (f.radius + thickness / 2 if f.hollow else f.radius - thickness / 2) for f in skin if f.axis is not None
    )
    if abs(_volume(shape) / (middle * thickness) - 1) > _OFF:
        raise _NoSheet("it is not of one thickness throughout")
    corners = list(minimum_rotated_rectangle(outline).exterior.coords)
    sides = sorted((_between(corners[0], corners[1]), _between(corners[1], corners[2])), reverse=True)
    rings = [outline.exterior, *outline.interiors]
    return {
        "thickness": round(thickness, 3),
        "k": k,
        "bends": bends,
        "flat": [round(x, 2) for x in sides],
        "cut_length": round(sum(r.length for r in rings), 1),
        "cutouts": len(outline.interiors),
        "outline": [[round(v, 2) for point in r.simplify(0.01).coords for v in point] for r in rings],
    }


def _thickness(first: "_Face", flats: "list[_Face]") -> float:
    """From the largest flat face to the largest one that looks the other way, within the material."""
    found = []
    for other in flats:
        if other.normal is None or first.normal is None or _dot(first.normal, other.normal) > -_SMOOTH:
            continue
        away = -_dot(first.normal, _minus(other.point, first.point))
        if away > _SAME:
            found.append((other.area, away))
    if not found:
        raise _NoSheet("no face lies opposite its largest one")
    largest = max(area for area, _ in found)
    thickness = min(away for area, away in found if area > 0.5 * largest)
    if thickness > 0.5 * first.area**0.5:
        raise _NoSheet("it is as thick as it is wide")
    return thickness


class _Face:
    """A face of the solid: flat with its outward normal, or a cylinder with its axis; all else is neither."""

    def __init__(self, face: Any) -> None:
        from OCP.BRepAdaptor import BRepAdaptor_Surface
        from OCP.BRepGProp import BRepGProp
        from OCP.GeomAbs import GeomAbs_Cylinder, GeomAbs_Plane
        from OCP.GProp import GProp_GProps
        from OCP.TopAbs import TopAbs_REVERSED

        self.face = face
        surface, properties = BRepAdaptor_Surface(face), GProp_GProps()
        BRepGProp.SurfaceProperties_s(face, properties)
        self.area = properties.Mass()
        self.normal: Vector | None = None
        self.axis: Vector | None = None
        self.radius, self.hollow = 0.0, False
        turned = -1.0 if face.Orientation() == TopAbs_REVERSED else 1.0
        if surface.GetType() == GeomAbs_Plane:
            plane = surface.Plane()
            axis, place = plane.Axis().Direction(), plane.Location()
            straight = 1.0 if plane.Direct() else -1.0
            self.normal = (turned * straight * axis.X(), turned * straight * axis.Y(), turned * straight * axis.Z())
            self.point: Vector = (place.X(), place.Y(), place.Z())
        elif surface.GetType() == GeomAbs_Cylinder:
            cylinder = surface.Cylinder()
            axis, place = cylinder.Axis().Direction(), cylinder.Location()
            self.axis, self.point = (axis.X(), axis.Y(), axis.Z()), (place.X(), place.Y(), place.Z())
            self.radius = cylinder.Radius()
            # The normal of a cylinder looks outward, away from its axis; where the face is turned it looks at it: the inside of a bend.
            self.hollow = (turned > 0) != cylinder.Direct()

    def index(self, faces: "list[_Face]") -> int:
        return faces.index(self)

    def outward(self, at: Vector) -> Vector:
        """The direction out of the material at a point of the face."""
        if self.normal is not None:
            return self.normal
        assert self.axis is not None
        away = _minus(at, self.point)
        radial = _unit(_minus(away, _times(self.axis, _dot(away, self.axis))))
        return _times(radial, -1.0) if self.hollow else radial

    def wires(self) -> list[list[Vector]]:
        """Its outer ring and its holes as points."""
        from OCP.BRepAdaptor import BRepAdaptor_Curve
        from OCP.BRepTools import BRepTools, BRepTools_WireExplorer
        from OCP.GCPnts import GCPnts_TangentialDeflection
        from OCP.TopAbs import TopAbs_REVERSED, TopAbs_WIRE
        from OCP.TopExp import TopExp_Explorer
        from OCP.TopoDS import TopoDS

        outer = BRepTools.OuterWire_s(self.face)
        rings: list[list[Vector]] = []
        explorer = TopExp_Explorer(self.face, TopAbs_WIRE)
        while explorer.More():
            wire = TopoDS.Wire_s(explorer.Current())
            ring: list[Vector] = []
            edges = BRepTools_WireExplorer(wire, self.face)
            while edges.More():
                edge = edges.Current()
                curve = GCPnts_TangentialDeflection(BRepAdaptor_Curve(edge), 0.05, 0.02)
                points = [(p.X(), p.Y(), p.Z()) for p in (curve.Value(i) for i in range(1, curve.NbPoints() + 1))]
                ring += (points[::-1] if edge.Orientation() == TopAbs_REVERSED else points)[:-1]
                edges.Next()
            rings.insert(0 if wire.IsSame(outer) else len(rings), ring)
            explorer.Next()
        return rings


class _Laid:
    """How a face lies in the plane: a point of space is at ``base``, and lengths along two directions of it go along two of the plane.

    For a bend the second length is the angle about its axis.
    """

    def __init__(
        self,
        origin: Vector,
        along: Vector,
        across: Vector,
        base: tuple[float, float],
        along2: tuple[float, float],
        across2: tuple[float, float],
        bend: "tuple[_Face, Vector, float] | None" = None,
    ) -> None:
        self.origin, self.along, self.across = origin, along, across
        self.base, self.along2, self.across2, self.bend = base, along2, across2, bend

    def point(self, p: Vector) -> tuple[float, float]:
        away = _minus(p, self.origin)
        u = _dot(away, self.along)
        if self.bend is None:
            v = _dot(away, self.across)
        else:
            face, start, per_radian = self.bend
            assert face.axis is not None
            out = _minus(p, face.point)
            radial = _unit(_minus(out, _times(face.axis, _dot(out, face.axis))))
            v = acos(max(-1.0, min(1.0, _dot(radial, start)))) * per_radian
        return self.base[0] + u * self.along2[0] + v * self.across2[0], self.base[1] + u * self.along2[1] + v * self.across2[1]

    def polygon(self, face: _Face) -> Any:
        from shapely import Polygon

        rings = [[self.point(p) for p in ring] for ring in face.wires()]
        return Polygon(rings[0], rings[1:]).buffer(0)


def _first_laid(face: _Face) -> _Laid:
    assert face.normal is not None
    helper: Vector = (1.0, 0.0, 0.0) if abs(face.normal[0]) < 0.9 else (0.0, 1.0, 0.0)
    along = _unit(_minus(helper, _times(face.normal, _dot(helper, face.normal))))
    return _Laid(face.point, along, _cross(face.normal, along), (0.0, 0.0), (1.0, 0.0), (0.0, 1.0))


def _over(
    here: _Face,
    laid: _Laid,
    edge: tuple[Vector, Vector],
    bend: _Face,
    other: _Face,
    other_edge: tuple[Vector, Vector],
    angle: float,
    allowance: float,
) -> tuple[_Laid, _Laid]:
    """Where a bend and the flat face beyond it lie, from the face before it and the edges at which they meet."""
    assert bend.axis is not None and here.normal is not None and other.normal is not None
    axis = _unit(bend.axis)
    start = edge[0]
    # Away from the face that lies already, within its plane and square to the bend.
    out = _unit(_cross(axis, here.normal))
    inside = here.wires()[0]
    middle = _times(_sum(inside), 1 / len(inside))
    if _dot(_minus(middle, start), out) > 0:
        out = _times(out, -1.0)
    flat_axis, flat_out = _turned(laid, axis), _turned(laid, out)
    base = laid.point(start)
    out_there = _minus(start, bend.point)
    radial = _unit(_minus(out_there, _times(axis, _dot(out_there, axis))))
    of_bend = _Laid(start, axis, out, base, flat_axis, flat_out, (bend, radial, allowance / angle))
    far = other_edge[0]
    beyond = _unit(_cross(axis, other.normal))
    ring = other.wires()[0]
    if _dot(_minus(_times(_sum(ring), 1 / len(ring)), far), beyond) < 0:
        beyond = _times(beyond, -1.0)
    along = _dot(_minus(far, start), axis)
    there = (base[0] + along * flat_axis[0] + allowance * flat_out[0], base[1] + along * flat_axis[1] + allowance * flat_out[1])
    return of_bend, _Laid(far, axis, beyond, there, flat_axis, flat_out)


def _turned(laid: _Laid, direction: Vector) -> tuple[float, float]:
    u, v = _dot(direction, laid.along), _dot(direction, laid.across)
    return u * laid.along2[0] + v * laid.across2[0], u * laid.along2[1] + v * laid.across2[1]


def _faces(shape: Any) -> list[Any]:
    from OCP.TopAbs import TopAbs_FACE
    from OCP.TopExp import TopExp_Explorer
    from OCP.TopoDS import TopoDS

    explorer, found = TopExp_Explorer(shape, TopAbs_FACE), []
    while explorer.More():
        found.append(TopoDS.Face_s(explorer.Current()))
        explorer.Next()
    return found


def _neighbours(faces: list[_Face]) -> dict[int, list[tuple[int, tuple[Vector, Vector]]]]:
    """For each face the faces it shares a straight edge with, and that edge."""
    from OCP.BRepAdaptor import BRepAdaptor_Curve
    from OCP.GeomAbs import GeomAbs_Line
    from OCP.TopAbs import TopAbs_EDGE
    from OCP.TopExp import TopExp_Explorer
    from OCP.TopoDS import TopoDS
    from OCP.TopTools import TopTools_IndexedMapOfShape

    # Edges that are the same, whichever way round, have the same place in it.
    edges = TopTools_IndexedMapOfShape()
    of_edge: dict[int, list[tuple[int, tuple[Vector, Vector]]]] = {}
    meets: dict[int, list[tuple[int, tuple[Vector, Vector]]]] = {at: [] for at in range(len(faces))}
    for at, face in enumerate(faces):
        explorer = TopExp_Explorer(face.face, TopAbs_EDGE)
        while explorer.More():
            edge = TopoDS.Edge_s(explorer.Current())
            curve = BRepAdaptor_Curve(edge)
            if curve.GetType() == GeomAbs_Line:
                a, b = curve.Value(curve.FirstParameter()), curve.Value(curve.LastParameter())
                ends = ((a.X(), a.Y(), a.Z()), (b.X(), b.Y(), b.Z()))
                same = of_edge.setdefault(edges.Add(edge), [])
                for other_at, other_ends in same:
                    if other_at != at:
                        meets[at].append((other_at, ends))
                        meets[other_at].append((at, other_ends))
                same.append((at, ends))
            explorer.Next()
    return meets


def _smooth(flat: _Face, bend: _Face, edge: tuple[Vector, Vector]) -> bool:
    """Whether a flat face and a cylinder pass into one another without a corner, along the axis of the cylinder."""
    if flat.normal is None or bend.axis is None:
        return False
    middle = _times(_sum(list(edge)), 0.5)
    direction = _minus(edge[1], edge[0])
    length = _dot(direction, direction) ** 0.5
    return length > _SAME and abs(_dot(direction, bend.axis)) / length > _SMOOTH and _dot(flat.normal, bend.outward(middle)) > _SMOOTH


def _volume(shape: Any) -> float:
    from OCP.BRepGProp import BRepGProp
    from OCP.GProp import GProp_GProps

    properties = GProp_GProps()
    BRepGProp.VolumeProperties_s(shape, properties)
    return abs(properties.Mass())


def _dot(a: Vector, b: Vector) -> float:
    return a[0] * b[0] + a[1] * b[1] + a[2] * b[2]


def _cross(a: Vector, b: Vector) -> Vector:
    return a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]


def _minus(a: Vector, b: Vector) -> Vector:
    return a[0] - b[0], a[1] - b[1], a[2] - b[2]


def _times(a: Vector, by: float) -> Vector:
    return a[0] * by, a[1] * by, a[2] * by


def _sum(vectors: list[Vector]) -> Vector:
    return sum(v[0] for v in vectors), sum(v[1] for v in vectors), sum(v[2] for v in vectors)


def _unit(a: Vector) -> Vector:
    length = _dot(a, a) ** 0.5 or 1.0
    return _times(a, 1 / length)


def _between(a: tuple[float, ...], b: tuple[float, ...]) -> float:
    return ((a[0] - b[0]) ** 2 + (a[1] - b[1]) ** 2) ** 0.5
