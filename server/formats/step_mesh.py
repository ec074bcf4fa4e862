"""An assembly as triangles, for a look at it from any side: glTF 2.0 in one binary file (an open standard of the Khronos Group, ISO/IEC
12113). Runs where the geometry kernel runs, in ``formats.step``.
"""

import json
import struct
from array import array
from collections.abc import Mapping, Sequence
from typing import Any

from formats.step_sizes import solid_of

__all__ = ["MOST_CORNERS", "MOST_STANDING", "look_of", "transform_of"]

#: What one look may hold: corners of triangles, each kind of part once; and things in their places.
MOST_CORNERS, MOST_STANDING = 1_500_000, 20_000
_PLAIN = "#c9cfd2"
_TRIANGLES, _FLOAT, _UNSIGNED, _CORNERS, _INDICES = 4, 5126, 5125, 34962, 34963
#: Millimetres, z upward, into the standard's metres, y upward; by columns.
_TURNED = [0.001, 0, 0, 0, 0, 0, -0.001, 0, 0, 0.001, 0, 0, 0, 0, 0, 1]

#: By columns, as glTF has it.
Matrix = list[float]


def transform_of(location: Any) -> Matrix | None:
    """Where something stands in what holds it; None where it stands at its origin."""
    if location.IsIdentity():
        return None
    t = location.Transformation()
    return [*(t.Value(row, column) if row < 4 else float(column == 4) for column in (1, 2, 3, 4) for row in (1, 2, 3, 4))]


def look_of(
    kinds: Mapping[str, tuple[str, Any, str]], placed: Mapping[str, Sequence[tuple[str, Matrix | None]]], tops: Sequence[str]
) -> bytes | None:
    """Everything in its place, each node with the name of what it is; nothing where none has a surface, None where it is
    more than can be shown.

    Args:
        kinds: entry → name, shape and colour of a part; an assembly has no shape.
        placed: entry of an assembly → entries directly in it, each with where it stands.
    """
    nodes: list[dict[str, Any]] = []
    waiting = [(top, None, None) for top in reversed(tops)]
    roots: list[int] = []
    made: dict[str, int | None] = {}
    file = _File()
    while waiting:
        entry, above, matrix = waiting.pop()
        if len(nodes) >= MOST_STANDING:
            return None
        name, shape, colour = kinds[entry]
        node: dict[str, Any] = {"name": name}
        if matrix is not None:
            node["matrix"] = matrix
        if shape is not None:
            if entry not in made:
                made[entry] = file.mesh(name, shape, colour)
            if (mesh := made[entry]) is not None:
                node["mesh"] = mesh
        if file.corners > MOST_CORNERS:
            return None
        at = len(nodes)
        nodes.append(node)
        if above is None:
            roots.append(at)
        else:
            nodes[above].setdefault("children", []).append(at)
        waiting += [(below, at, where) for below, where in reversed(placed.get(entry, ()))]  # type: ignore[misc]
    return file.content(nodes, roots) if file.meshes else b""


class _File:
    def __init__(self) -> None:
        self.meshes: list[dict[str, Any]] = []
        self.corners = 0
        self._materials: dict[str, int] = {}
        self._views: list[dict[str, Any]] = []
        self._accessors: list[dict[str, Any]] = []
        self._bytes = bytearray()

    def mesh(self, name: str, shape: Any, colour: str) -> int | None:
        """A part in triangles; None for one without a surface."""
        points, corners = _triangles(solid_of(shape))
        if not corners:
            return None
        self.corners += len(points) // 3
        low, high = [min(points[i::3]) for i in range(3)], [max(points[i::3]) for i in range(3)]
        place = self._accessor(
            points.tobytes(), _CORNERS, {"componentType": _FLOAT, "count": len(points) // 3, "type": "VEC3", "min": low, "max": high}
        )
        of = self._accessor(corners.tobytes(), _INDICES, {"componentType": _UNSIGNED, "count": len(corners), "type": "SCALAR"})
        material = self._materials.setdefault(colour or _PLAIN, len(self._materials))
        primitive = {"attributes": {"POSITION": place}, "indices": of, "material": material, "mode": _TRIANGLES}
        self.meshes.append({"name": name, "primitives": [primitive]})
        return len(self.meshes) - 1

    def _accessor(self, content: bytes, target: int, said: dict[str, Any]) -> int:
        self._views.append({"buffer": 0, "byteOffset": len(self._bytes), "byteLength": len(content), "target": target})
        self._bytes += content
        self._accessors.append({"bufferView": len(self._views) - 1} | said)
        return len(self._accessors) - 1

    def content(self, nodes: list[dict[str, Any]], roots: list[int]) -> bytes:
        document = {
            "asset": {"version": "2.0"},
            "scene": 0,
            "scenes": [{"nodes": [len(nodes)]}],
            "nodes": [*nodes, {"name": "", "matrix": _TURNED, "children": roots}],
            "meshes": self.meshes,
            "materials": [
                {
                    "name": colour,
                    "pbrMetallicRoughness": {"baseColorFactor": [*_linear(colour), 1], "metallicFactor": 0, "roughnessFactor": 0.7},
                }
                for colour in self._materials
            ],
            "accessors": self._accessors,
            "bufferViews": self._views,
            "buffers": [{"byteLength": len(self._bytes)}],
        }
        said = json.dumps(document, ensure_ascii=False, separators=(",", ":")).encode()
        said += b" " * (-len(said) % 4)
        whole = bytes(self._bytes)
        chunks = struct.pack("<I4s", len(said), b"JSON") + said + struct.pack("<I4s", len(whole), b"BIN\0") + whole
        return struct.pack("<4sII", b"glTF", 2, 12 + len(chunks)) + chunks


def _linear(colour: str) -> list[float]:
    """#rrggbb of sRGB as linear light, by IEC 61966-2-1."""
    parts = [int(colour[i : i + 2], 16) / 255 for i in (1, 3, 5)]
    return [round(c / 12.92 if c <= 0.04045 else ((c + 0.055) / 1.055) ** 2.4, 6) for c in parts]


def _triangles(shape: Any) -> "tuple[array[float], array[int]]":
    """Points x, y, z … in millimetres and three of them for each triangle; every face has points of its own, so that its edges stay sharp."""
    from OCP.Bnd import Bnd_Box
    from OCP.BRep import BRep_Tool
    from OCP.BRepBndLib import BRepBndLib
    from OCP.BRepMesh import BRepMesh_IncrementalMesh
    from OCP.TopAbs import TopAbs_FACE, TopAbs_REVERSED
    from OCP.TopExp import TopExp_Explorer
    from OCP.TopLoc import TopLoc_Location
    from OCP.TopoDS import TopoDS

    points, corners = array("f"), array("I")
    box = Bnd_Box()
    BRepBndLib.Add_s(shape, box)
    if box.IsVoid():
        return points, corners
    BRepMesh_IncrementalMesh(shape, box.CornerMin().Distance(box.CornerMax()) / 400, False, 0.35, False)
    faces = TopExp_Explorer(shape, TopAbs_FACE)
    while faces.More():
        face, location = TopoDS.Face_s(faces.Current()), TopLoc_Location()
        mesh = BRep_Tool.Triangulation_s(face, location)
        faces.Next()
        if mesh is None:
            continue
        first, moved = len(points) // 3, None if location.IsIdentity() else location.Transformation()
        for i in range(1, mesh.NbNodes() + 1):
            p = mesh.Node(i)
            if moved is not None:
                p = p.Transformed(moved)
            points.extend((p.X(), p.Y(), p.Z()))
        turned = face.Orientation() == TopAbs_REVERSED
        for i in range(1, mesh.NbTriangles() + 1):
            a, b, c = mesh.Triangle(i).Get()
            corners.extend((first + a - 1, first + (c if turned else b) - 1, first + (b if turned else c) - 1))
    return points, corners
