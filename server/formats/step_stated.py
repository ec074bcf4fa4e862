"""What a file states of its own shapes (geometric validation properties of ISO 10303) beside what they are. Runs where the geometry kernel runs."""

from math import dist
from typing import Any

from formats.step_sizes import bulk_of

__all__ = ["not_as_stated"]

#: How far a figure may be off: writers approximate round faces, and differ by up to a twentieth of a percent (AS1 of the CAx-IF); a face that was lost
#: is far more. A middle: in parts of how far the shape reaches.
_OFF = 0.002


def not_as_stated(label: Any, shape: Any) -> tuple[bool, str]:
    """Whether a file states volume, surface or middle of a shape, and in words what of it is not so; empty where all holds."""
    from OCP.XCAFDoc import XCAFDoc_Area, XCAFDoc_Centroid, XCAFDoc_Volume

    stated = (XCAFDoc_Volume(), XCAFDoc_Area(), XCAFDoc_Centroid())
    # To look for what is not there takes the kernel down.
    states = [label.IsAttribute(x.GetID_s()) and label.FindAttribute(x.GetID_s(), x) for x in stated]
    if not any(states):
        return False, ""
    volume, surface, middle = bulk_of(shape)
    words = []
    if states[0] and _off(stated[0].Get(), volume):
        words.append(f"a volume of {stated[0].Get():.6g} mm³, and its shape has {volume:.6g}")
    if states[1] and _off(stated[1].Get(), surface):
        words.append(f"a surface of {stated[1].Get():.6g} mm², and its shape has {surface:.6g}")
    # The middle of a shape that bounds no volume is nowhere.
    if states[2] and volume > 1e-9:
        point = stated[2].Get()
        place = (point.X(), point.Y(), point.Z())
        if dist(place, middle) > max(_OFF * _reach(shape), 0.01):
            words.append(f"its middle at {_place(place)}, and it is at {_place(middle)}")
    return True, "; ".join(words)


def _off(stated: float, found: float) -> bool:
    return abs(stated - found) > _OFF * max(abs(stated), found)


def _reach(shape: Any) -> float:
    from OCP.Bnd import Bnd_Box
    from OCP.BRepBndLib import BRepBndLib

    box = Bnd_Box()
    BRepBndLib.Add_s(shape, box)
    return 0.0 if box.IsVoid() else box.CornerMin().Distance(box.CornerMax())


def _place(point: tuple[float, float, float]) -> str:
    return " ".join(f"{x:.5g}" for x in point) + " mm"
