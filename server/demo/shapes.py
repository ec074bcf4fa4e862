"""Models of the demo: shapes of boxes, cylinders and rings put together here, and written as STEP (AP214) by the geometry kernel."""

import tempfile
from collections.abc import Callable
from pathlib import Path
from typing import Any

__all__ = ["assembly", "demo_models", "part_file"]

Place = tuple[float, float, float]


def demo_models() -> list[tuple[str, str, bytes]]:
    """For each model its part, the name of its file and its content."""
    return [
        (
            "HL155-10",
            "lens-assembly.step",
            assembly(
                "HL155-10", [("LNS-155", _lens(), [(0, 0, 0)]), ("ORG-150", _seal(), [(0, 0, 2)]), ("HL155-11", _ring(), [(0, 0, -8)])]
            ),
        ),
        ("CR-155", "crate.step", _crate()),
        ("HL155-22", "heat-spreader.step", part_file("HL155-22", _spreader())),
        ("CST-155", "base-casting.step", part_file("CST-155", _casting())),
    ]


def assembly(name: str, parts: list[tuple[str, Any, list[Place]]], turned: Callable[[str, int], Any] | None = None) -> bytes:
    """An assembly of parts, each at its places in millimetres, as a STEP file; ``turned`` gives a whole placement instead."""
    from OCP.gp import gp_Trsf, gp_Vec
    from OCP.TCollection import TCollection_ExtendedString
    from OCP.TDataStd import TDataStd_Name
    from OCP.TDocStd import TDocStd_Document
    from OCP.TopLoc import TopLoc_Location
    from OCP.XCAFDoc import XCAFDoc_DocumentTool

    document = TDocStd_Document(TCollection_ExtendedString("demo"))
    tool = XCAFDoc_DocumentTool.ShapeTool_s(document.Main())
    top = tool.NewShape()
    TDataStd_Name.Set_s(top, TCollection_ExtendedString(name))
    for called, shape, places in parts:
        label = tool.AddShape(shape, False)
        TDataStd_Name.Set_s(label, TCollection_ExtendedString(called))
        for at, place in enumerate(places):
            move = gp_Trsf()
            if turned is not None:
                move = turned(called, at)
            else:
                move.SetTranslation(gp_Vec(*place))
            tool.AddComponent(top, label, TopLoc_Location(move))
    tool.UpdateAssemblies()
    return _written(document)


def part_file(name: str, shape: Any) -> bytes:
    """One part as a STEP file."""
    from OCP.TCollection import TCollection_ExtendedString
    from OCP.TDataStd import TDataStd_Name
    from OCP.TDocStd import TDocStd_Document
    from OCP.XCAFDoc import XCAFDoc_DocumentTool

    document = TDocStd_Document(TCollection_ExtendedString("demo"))
    label = XCAFDoc_DocumentTool.ShapeTool_s(document.Main()).AddShape(shape, False)
    TDataStd_Name.Set_s(label, TCollection_ExtendedString(name))
    return _written(document)


def _written(document: Any) -> bytes:
    from OCP.Message import Message
    from OCP.STEPCAFControl import STEPCAFControl_Writer

    # The kernel tells at length what it writes.
    Message.DefaultMessenger_s().ChangePrinters().Clear()
    writer = STEPCAFControl_Writer()
    writer.Transfer(document)
    with tempfile.TemporaryDirectory() as folder:
        file = Path(folder) / "model.step"
        writer.Write(str(file))
        return file.read_bytes()


def _axis(x: float = 0, y: float = 0, z: float = 0) -> Any:
    from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt

    return gp_Ax2(gp_Pnt(x, y, z), gp_Dir(0, 0, 1))


def _round(radius: float, height: float, z: float = 0, x: float = 0, y: float = 0) -> Any:
    from OCP.BRepPrimAPI import BRepPrimAPI_MakeCylinder

    return BRepPrimAPI_MakeCylinder(_axis(x, y, z), radius, height).Shape()


def _box(x: float, y: float, z: float, at: Place = (0, 0, 0)) -> Any:
    from OCP.BRepPrimAPI import BRepPrimAPI_MakeBox
    from OCP.gp import gp_Pnt

    return BRepPrimAPI_MakeBox(gp_Pnt(*at), x, y, z).Shape()


def _less(shape: Any, *others: Any) -> Any:
    from OCP.BRepAlgoAPI import BRepAlgoAPI_Cut

    for other in others:
        shape = BRepAlgoAPI_Cut(shape, other).Shape()
    return shape


def _with(shape: Any, *others: Any) -> Any:
    from OCP.BRepAlgoAPI import BRepAlgoAPI_Fuse
    from OCP.ShapeUpgrade import ShapeUpgrade_UnifySameDomain

    for other in others:
        shape = BRepAlgoAPI_Fuse(shape, other).Shape()
    joined = ShapeUpgrade_UnifySameDomain(shape)
    joined.Build()
    return joined.Shape()


def _lens() -> Any:
    """A moulded cup with a flange; its top is a dome."""
    from OCP.BRepPrimAPI import BRepPrimAPI_MakeSphere

    dome = BRepPrimAPI_MakeSphere(_axis(z=40), 72.0, 0.0, 1.5707963).Shape()
    inner = BRepPrimAPI_MakeSphere(_axis(z=40), 68.0, 0.0, 1.5707963).Shape()
    return _less(_with(_round(72, 40), _round(78, 6), dome), _round(68, 40), inner)


def _seal() -> Any:
    from OCP.BRepPrimAPI import BRepPrimAPI_MakeTorus

    return BRepPrimAPI_MakeTorus(_axis(z=-2), 77.0, 2.0).Shape()


def _ring() -> Any:
    holes = [_round(2.7, 20, -1, *_around(80, at, 8)) for at in range(8)]
    return _less(_with(_round(85, 6), _round(80, 9)), _round(74, 20, -1), *holes)


def _around(radius: float, at: int, of: int) -> tuple[float, float]:
    from math import cos, pi, sin

    return radius * cos(2 * pi * at / of), radius * sin(2 * pi * at / of)


def _spreader() -> Any:
    """A sheet of 3 mm with a tab bent up by a right angle, inner radius 3, and holes for the board."""
    from OCP.BRepPrimAPI import BRepPrimAPI_MakeCylinder
    from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt

    plate = _box(92, 60, 3)
    axis = gp_Ax2(gp_Pnt(0, 60, 6), gp_Dir(1, 0, 0))
    bend = _less(BRepPrimAPI_MakeCylinder(axis, 6.0, 92.0).Shape(), BRepPrimAPI_MakeCylinder(axis, 3.0, 92.0).Shape())
    bend = _less(bend, _box(92, 20, 12, (0, 40, 0)), _box(92, 20, 12, (0, 54, 6)))
    tab = _box(92, 3, 14, (0, 63, 6))
    holes = [_round(2.2, 10, -1, x, y) for x in (10, 82) for y in (10, 50)]
    return _less(_with(plate, bend, tab), *holes)


def _casting() -> Any:
    feet = [_round(14, 16, 0, *_around(78, at, 4)) for at in range(4)]
    holes = [_round(5.5, 30, -1, *_around(78, at, 4)) for at in range(4)]
    return _less(_with(_round(88, 12), _round(80, 74), *feet), _round(72, 80, 8), _round(12, 20, -2), *holes)


def _crate() -> bytes:
    """Six panels about a cube, and battens in its edges, for which there is no number: they are cut from stock."""
    from OCP.gp import gp_Ax1, gp_Dir, gp_Pnt, gp_Trsf, gp_Vec

    def placed(turn: tuple[Place, float] | None, to: Place) -> Any:
        move = gp_Trsf()
        if turn is not None:
            move.SetRotation(gp_Ax1(gp_Pnt(0, 0, 0), gp_Dir(*turn[0])), turn[1])
        move.SetTranslationPart(gp_Vec(*to))
        return move

    right = 1.5707963267948966
    panels = [
        placed(None, (0, 0, -9)),
        placed(None, (0, 0, 240)),
        placed(((1, 0, 0), right), (0, 0, 0)),
        placed(((1, 0, 0), right), (0, 249, 0)),
        placed(((0, 1, 0), -right), (0, 0, 0)),
        placed(((0, 1, 0), -right), (249, 0, 0)),
    ]
    battens = [placed(None, (x, y, 0)) for x in (0, 210) for y in (0, 210)]
    return assembly(
        "CR-155",
        [("CR-155-1", _box(240, 240, 9), [(0, 0, 0)] * 6), ("batten 30 x 30 x 240", _box(30, 30, 240), [(0, 0, 0)] * 4)],
        lambda called, at: panels[at] if called == "CR-155-1" else battens[at],
    )
