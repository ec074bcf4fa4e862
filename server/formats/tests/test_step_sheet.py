"""Sheet metal unfolded, against the handbook's formula: a bend of inner radius R and angle θ in a sheet of T takes (R + K·T)·θ of the flat (rule M3).

Shapes are put together here of boxes and cylinders; each flat size is worked out by hand.
"""

import unittest
from math import pi
from typing import Any

from demo.shapes import _box, _casting, _lens, _less, _round, _spreader, _with

from formats.step_sheet import K, sheet_metal


def bent(legs: list[float], width: float, t: float, radius: float) -> Any:
    """A strip bent by right angles, alternately up and down: a step, or for two legs an L. Legs are the flat lengths between bends."""
    from OCP.BRepPrimAPI import BRepPrimAPI_MakeCylinder
    from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt

    x, y = legs[0], 0.0
    pieces = [_box(legs[0], width, t)]
    up = False
    for leg in legs[1:]:
        if not up:
            # From flat to upright: the axis lies above, at the inner radius.
            axis = gp_Ax2(gp_Pnt(x, 0, y + t + radius), gp_Dir(0, 1, 0))
            ring = _less(BRepPrimAPI_MakeCylinder(axis, radius + t, width).Shape(), BRepPrimAPI_MakeCylinder(axis, radius, width).Shape())
            far = 10 * (radius + t)
            ring = _less(ring, _box(far, width, 2 * far, (x - far, 0, y - far)), _box(2 * far, width, far, (x - far, 0, y + t + radius)))
            x, y = x + radius, y + t + radius
            pieces += [ring, _box(t, width, leg, (x, 0, y))]
            y += leg
        else:
            # From upright to flat, away: the axis lies beyond.
            axis = gp_Ax2(gp_Pnt(x + t + radius, 0, y), gp_Dir(0, 1, 0))
            ring = _less(BRepPrimAPI_MakeCylinder(axis, radius + t, width).Shape(), BRepPrimAPI_MakeCylinder(axis, radius, width).Shape())
            far = 10 * (radius + t)
            ring = _less(ring, _box(2 * far, width, far, (x - far, 0, y - far)), _box(far, width, 2 * far, (x + t + radius, 0, y - far)))
            x, y = x + t + radius, y + radius
            pieces += [ring, _box(leg, width, t, (x, 0, y))]
            x += leg
        up = not up
    return _with(*pieces)


class SheetMetal(unittest.TestCase):
    def test_bends_take_what_the_formula_says(self) -> None:
        for legs, width, t, radius in (
            ([80.0, 50.0], 120.0, 2.0, 3.0),
            ([60.0, 40.0], 20.0, 1.0, 1.0),
            ([90.0, 45.0, 70.0], 55.0, 3.0, 4.5),
        ):
            said = sheet_metal(bent(legs, width, t, radius))
            bends = len(legs) - 1
            long = sum(legs) + bends * (radius + K * t) * pi / 2
            self.assertNotIn("not", said)
            self.assertEqual((said["thickness"], len(said["bends"])), (t, bends))
            self.assertTrue(all(b == {"radius": radius, "angle": 90.0} for b in said["bends"]))
            for side, wanted in zip(said["flat"], sorted((long, width), reverse=True), strict=True):
                self.assertAlmostEqual(side, wanted, delta=0.02)
            self.assertAlmostEqual(said["cut_length"], 2 * (long + width), delta=0.2)
            self.assertEqual(said["cutouts"], 0)

    def test_holes_are_cut_and_another_k_is_another_size(self) -> None:
        said = sheet_metal(_spreader())
        self.assertEqual((said["cutouts"], len(said["outline"])), (4, 5))
        self.assertAlmostEqual(said["flat"][1], 60 + 14 + (3 + K * 3) * pi / 2, delta=0.01)
        self.assertAlmostEqual(said["cut_length"], 2 * sum(said["flat"]) + 4 * pi * 4.4, delta=0.2)
        self.assertAlmostEqual(sheet_metal(_spreader(), 0.5)["flat"][1], 60 + 14 + 4.5 * pi / 2, delta=0.01)

    def test_a_flat_plate_is_its_own_flat(self) -> None:
        plate = _less(_box(100, 50, 2), _round(5, 9, -1, 20, 20))
        said = sheet_metal(plate)
        self.assertEqual((said["flat"], said["bends"], said["cutouts"], said["thickness"]), ([100.0, 50.0], [], 1, 2.0))

    def test_what_is_no_sheet_metal_is_said_to_be_none(self) -> None:
        for shape, words in (
            (_box(30, 30, 30), "as thick as it is wide"),
            (_casting(), "not of one thickness"),
            (_lens(), "not of one thickness"),
            (_round(5, 40), "too few"),
            (_with(_box(100, 60, 2), _box(20, 20, 6)), "not of one thickness"),
        ):
            self.assertIn(words, sheet_metal(shape).get("not", "nothing"))
