"""The flat outline of a sheet-metal part for a machine: DXF in millimetres."""

import io

import ezdxf
from tally_core.basics.errors import MissingError

from geometry.models import PartShape

__all__ = ["flat_dxf"]


def flat_dxf(shape: PartShape) -> bytes:
    """Its outline and its cut-outs as closed lines. Raises MissingError for a part that is not bent from sheet."""
    said = shape.sheet or {}
    if "outline" not in said:
        raise MissingError(f"{shape.part.number} has no flat outline: {said.get('not', 'it is an assembly')}.")
    drawing = ezdxf.new("R2010", units=ezdxf.units.MM)
    for layer in ("OUTLINE", "CUTOUTS"):
        drawing.layers.add(layer)
    for at, ring in enumerate(said["outline"]):
        points = list(zip(ring[::2], ring[1::2], strict=True))[:-1]
        layer = "CUTOUTS" if at else "OUTLINE"
        drawing.modelspace().add_lwpolyline(points, close=True, dxfattribs={"layer": layer})
    out = io.StringIO()
    drawing.write(out)
    return out.getvalue().encode()
