"""How large a shape is (rule M1). Runs where the geometry kernel runs, in ``formats.step``."""

from typing import Any

__all__ = ["bulk_of", "sizes_of", "solid_of"]

#: How exactly volume and surface are integrated where a face is freely curved: the kernel's own way without such a bound is up to 1.5 % off there (the
#: head of S1 of the CAx-IF). On planes, cylinders, cones, spheres and tori it is exact to the last digits, and takes a fifth of the time.
_EXACT = 1e-8


def sizes_of(shape: Any) -> dict[str, Any]:
    """Size along its own axes, its smallest box, surface and volume, in millimetres; nothing for a shape without extent."""
    from OCP.Bnd import Bnd_Box, Bnd_OBB
    from OCP.BRepBndLib import BRepBndLib

    shape = solid_of(shape)
    box = Bnd_Box()
    BRepBndLib.AddOptimal_s(shape, box, False, False)
    if box.IsVoid():
        return {}
    low, high = box.CornerMin(), box.CornerMax()
    sides = [high.X() - low.X(), high.Y() - low.Y(), high.Z() - low.Z()]
    smallest = Bnd_OBB()
    BRepBndLib.AddOBB_s(shape, smallest, False, True, False)
    around = sorted((2 * smallest.XHSize(), 2 * smallest.YHSize(), 2 * smallest.ZHSize()), reverse=True)
    if around[0] * around[1] * around[2] > sides[0] * sides[1] * sides[2]:
        # What is found by trying is no better than the box along its own axes.
        around = sorted(sides, reverse=True)
    volume, surface, _ = bulk_of(shape)
    return {
        "size_mm": [_plain(x) for x in sides],
        "smallest_box_mm": [_plain(x) for x in around],
        "volume_mm3": _plain(volume),
        "surface_mm2": _plain(surface),
    }


def bulk_of(shape: Any) -> tuple[float, float, tuple[float, float, float]]:
    """Volume, surface and the middle of the volume, in millimetres."""
    from OCP.BRepGProp import BRepGProp
    from OCP.GProp import GProp_GProps

    solid, surface = GProp_GProps(), GProp_GProps()
    if _is_freely_curved(shape):
        BRepGProp.VolumeProperties_s(shape, solid, _EXACT, False, False)
        BRepGProp.SurfaceProperties_s(shape, surface, _EXACT, False)
    else:
        BRepGProp.VolumeProperties_s(shape, solid)
        BRepGProp.SurfaceProperties_s(shape, surface)
    middle = solid.CentreOfMass()
    return abs(solid.Mass()), surface.Mass(), (middle.X(), middle.Y(), middle.Z())


def _is_freely_curved(shape: Any) -> bool:
    """Whether any face is something else than a plane, a cylinder, a cone, a sphere or a torus."""
    from OCP.BRepAdaptor import BRepAdaptor_Surface
    from OCP.GeomAbs import GeomAbs_Cone, GeomAbs_Cylinder, GeomAbs_Plane, GeomAbs_Sphere, GeomAbs_Torus
    from OCP.TopAbs import TopAbs_FACE
    from OCP.TopExp import TopExp_Explorer
    from OCP.TopoDS import TopoDS

    plain = {GeomAbs_Plane, GeomAbs_Cylinder, GeomAbs_Cone, GeomAbs_Sphere, GeomAbs_Torus}
    faces = TopExp_Explorer(shape, TopAbs_FACE)
    while faces.More():
        if BRepAdaptor_Surface(TopoDS.Face_s(faces.Current()), False).GetType() not in plain:
            return True
        faces.Next()
    return False


def solid_of(shape: Any) -> Any:
    """The solids of a shape, where it has any: its axes and planes are no part of its size."""
    from OCP.BRep import BRep_Builder
    from OCP.TopAbs import TopAbs_SOLID
    from OCP.TopExp import TopExp_Explorer
    from OCP.TopoDS import TopoDS_Compound

    solids, builder, found = TopExp_Explorer(shape, TopAbs_SOLID), BRep_Builder(), TopoDS_Compound()
    builder.MakeCompound(found)
    count = 0
    while solids.More():
        builder.Add(found, solids.Current())
        count += 1
        solids.Next()
    return found if count else shape


def _plain(number: float) -> str:
    text = f"{number:.4f}".rstrip("0").rstrip(".")
    return "0" if text == "-0" else text
