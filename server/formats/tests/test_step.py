"""Assemblies by STEP: the test assembly AS1 of the CAx-IF (ISO 10303), cubes in three units, shapes worked out by hand; and what is no STEP.

AS1 as written by three systems, by AP203 and AP214, and the cubes come with the package occt-import-js: plate 1, l-bracket 2, bolt 6,
nut 8, rod 1, 18 in all. Volumes of boxes and cylinders are those of any handbook.
"""

import math
import tempfile
import unittest
from functools import cache
from pathlib import Path
from typing import Any
from unittest.mock import patch

from tally_core.basics.errors import TallyError

from formats import step
from formats.neutral import read_files
from formats.step import is_step, mains_of, read_step
from formats.step_lines import views_of
from formats.step_section import section_of

_FILES = Path(__file__).resolve().parents[3] / "web" / "node_modules" / "occt-import-js" / "test" / "testfiles"
CAX_IF = _FILES / "cax-if"


def of_cax_if(name: str) -> bytes:
    return (CAX_IF / name).read_bytes()


@cache
def read_of_cax_if(name: str) -> dict[str, Any]:
    return read_step([(name, of_cax_if(name))])


class TakenApart(unittest.TestCase):
    def test_two_cubes_stand_further_from_their_middle(self) -> None:
        """Cubes of 10 upon one another, 5 either way from their middle: each 6 further off, 12 between them. Seen from the corner, what
        stands upright is shortened to √(2/3) of its length, and as wide as before (isometric projection of any handbook)."""
        from demo.shapes import _box

        views = views_of([("lower", _box(10, 10, 10)), ("upper", _box(10, 10, 10, (0, 0, 10)))])
        whole, apart = views["isometric"], views["exploded"]
        self.assertAlmostEqual(apart["height"] - whole["height"], 12 * math.sqrt(2 / 3), places=1)
        self.assertAlmostEqual(apart["width"], whole["width"], places=1)
        self.assertEqual([p["name"] for p in apart["parts"]], ["lower", "upper"])
        self.assertNotIn("exploded", views_of([("alone", _box(10, 10, 10))]))


def _area(ring: list[float]) -> float:
    """Of a polygon (Gauss's formula)."""
    points = list(zip(ring[::2], ring[1::2], strict=True))
    return abs(sum(x * v - u * y for (x, y), (u, v) in zip(points, points[1:] + points[:1], strict=True))) / 2


class Cut(unittest.TestCase):
    def test_a_tube_and_what_stands_before_and_behind_the_plane(self) -> None:
        """A tube of 20 by 12 and 30 high, cut along its axis: two walls of 4 by 30. A cube in front of the plane is gone; one behind it is whole."""
        from demo.shapes import _box
        from OCP.BRepAlgoAPI import BRepAlgoAPI_Cut
        from OCP.BRepPrimAPI import BRepPrimAPI_MakeCylinder

        tube = BRepAlgoAPI_Cut(BRepPrimAPI_MakeCylinder(10.0, 30.0).Shape(), BRepPrimAPI_MakeCylinder(6.0, 30.0).Shape()).Shape()
        things = [("tube", tube), ("before", _box(4, 4, 4, (20, -9, 0))), ("behind", _box(4, 4, 4, (30, 5, 0)))]
        said = section_of(things, "front", 10)
        self.assertEqual((said["plane"], said["uncut"], said["width"], said["height"]), ([1, 0.0], [], 44.0, 30.0))
        cut = {p["name"]: p["cut"] for p in said["parts"]}
        self.assertEqual(set(cut), {"tube", "behind"})
        self.assertEqual(
            [(sorted(r[::2]), sorted(r[1::2])) for r in cut["tube"]], [([a, a, b, b], [0, 0, 30, 30]) for a, b in ((0, 4), (16, 20))]
        )
        self.assertEqual(cut["behind"], [])
        # From above, 10 mm deep: a ring of π (10² - 6²), the inner outline a hole in the outer.
        outer, inner = sorted((_area(r) for r in section_of(things[:1], "top", 10)["parts"][0]["cut"]), reverse=True)
        self.assertAlmostEqual(outer - inner, math.pi * 64, delta=1)
        self.assertAlmostEqual(outer, math.pi * 100, delta=1)
        self.assertIsNone(section_of(things, "top", 31), "nothing stands behind that")

    def test_where_the_kernel_stumbles_over_one_mesh_another_is_made(self) -> None:
        """DM1 of the CAx-IF, 20 mm behind its front: hidden lines of what is cut fall over its first mesh (7.9 of the kernel)."""
        said = read_step([("dm1.stp", of_cax_if("dm1-id-214.stp"))], drawn=True, sections=[("front", 20)])
        view = said["sections"][0]["view"]
        self.assertEqual(sorted(p["name"] for p in view["parts"]), ["bolt"] * 3 + ["l-bracket"])
        self.assertEqual([len(p["cut"]) for p in view["parts"] if p["name"] == "bolt"], [1, 1, 1])

    def test_of_as1(self) -> None:
        """Half way along its rod of 10: a circle; and the plate, 20 high and 150 deep, is cut right through."""
        said = read_step([("as1.stp", of_cax_if("as1-oc-214.stp"))], sections=[("right", 100)])
        self.assertEqual(list(said["sections"][0])[:2], ["side", "depth"])
        view = said["sections"][0]["view"]
        area = {p["name"].lower(): sum(map(_area, p["cut"])) for p in view["parts"] if p["cut"]}
        self.assertEqual(set(area), {"plate", "rod-assembly"})
        self.assertAlmostEqual(area["rod-assembly"], math.pi * 25, delta=1)
        self.assertAlmostEqual(area["plate"], 20 * 150, delta=1)
        self.assertEqual((said["parts"], said["tree"]), ([], []))


class Assemblies(unittest.TestCase):
    def test_as1_gives_its_counts_whoever_wrote_it(self) -> None:
        for name in ("as1-oc-214.stp", "as1-tu-203.stp", "as1_pe_203.stp"):
            said = read_of_cax_if(name)
            counts = {p["name"].lower(): p["count"] for p in said["parts"]}
            self.assertEqual(counts, {"plate": 1, "l-bracket": 2, "bolt": 6, "nut": 8, "rod": 1}, name)
            self.assertEqual((sum(counts.values()), said["problems"]), (18, []))
            # Four levels: the top, the bracket with its bolts, a bolt with its nut, and these.
            under = {(t["parent"] or "", t["name"]): t["count"] for t in said["tree"]}
            depth, level = 0, {t["name"] for t in said["tree"] if t["parent"] is None}
            while level:
                depth, level = depth + 1, {name for parent, name in under if parent in level}
            self.assertEqual((depth, len(said["tree"])), (4, 10), name)
            self.assertEqual(max(under.values()), 3, "three bolts on each bracket")

    def test_two_systems_measure_the_same(self) -> None:
        first, second = ({p["name"]: p for p in read_step([(n, of_cax_if(n))])["parts"]} for n in ("as1-oc-214.stp", "as1-tu-203.stp"))
        for name, part in first.items():
            self.assertEqual(part["size_mm"], second[name]["size_mm"])
            self.assertAlmostEqual(float(part["volume_mm3"]) / float(second[name]["volume_mm3"]), 1, places=4)
        # A rod of 10 by 200: π r² h.
        self.assertEqual((first["rod"]["size_mm"], first["nut"]["smallest_box_mm"]), (["10", "10", "200"], ["20", "15", "3"]))
        self.assertAlmostEqual(float(first["rod"]["volume_mm3"]), math.pi * 25 * 200, delta=1)

    def test_sizes_are_millimetres_whatever_the_unit_of_the_file(self) -> None:
        for unit in ("mm", "m", "in"):
            said = read_step([(f"cube-{unit}.step", (_FILES / "cube-units" / f"cube-{unit}.step").read_bytes())])
            (cube,) = said["parts"]
            self.assertEqual((cube["size_mm"], cube["volume_mm3"]), (["1000"] * 3, "1000000000"), unit)

    def test_shapes_worked_out_by_hand(self) -> None:
        from OCP.BRepBuilderAPI import BRepBuilderAPI_Transform
        from OCP.BRepPrimAPI import BRepPrimAPI_MakeBox, BRepPrimAPI_MakeCylinder
        from OCP.gp import gp_Ax1, gp_Dir, gp_Pnt, gp_Trsf
        from OCP.IFSelect import IFSelect_RetDone
        from OCP.Message import Message
        from OCP.STEPControl import STEPControl_AsIs, STEPControl_Writer

        # The kernel tells at length what it writes.
        Message.DefaultMessenger_s().ChangePrinters().Clear()
        turn = gp_Trsf()
        turn.SetRotation(gp_Ax1(gp_Pnt(0, 0, 0), gp_Dir(0, 0, 1)), math.radians(30))
        box = BRepPrimAPI_MakeBox(40.0, 20.0, 3.0).Shape()
        for shape, volume, smallest in (
            (box, 2400.0, [40, 20, 3]),
            # Turned in space, its smallest box is what it was.
            (BRepBuilderAPI_Transform(box, turn).Shape(), 2400.0, [40, 20, 3]),
            (BRepPrimAPI_MakeCylinder(6.0, 25.0).Shape(), math.pi * 36 * 25, [25, 12, 12]),
        ):
            file = Path(tempfile.mkdtemp()) / "shape.step"
            writer = STEPControl_Writer()
            writer.Transfer(shape, STEPControl_AsIs)
            self.assertEqual(writer.Write(str(file)), IFSelect_RetDone)
            (part,) = read_step([("shape.step", file.read_bytes())])["parts"]
            self.assertAlmostEqual(float(part["volume_mm3"]), volume, delta=0.01)
            for side, wanted in zip(part["smallest_box_mm"], smallest, strict=True):
                self.assertAlmostEqual(float(side), wanted, delta=0.01)

    def test_figures_that_a_file_states_are_held_against_its_shapes(self) -> None:
        """AS1 as one system wrote it states volume, surface and middle of all its nine products (validation properties of ISO 10303)."""
        text = of_cax_if("as1-tu-203.stp")
        said = read_step([("as1.stp", text)], drawn=True)
        self.assertEqual((said["as_stated"], said["problems"]), ([{"count": 9}], []))
        cube = (_FILES / "cube-units" / "cube-mm.step").read_bytes()
        self.assertEqual(read_step([("cube.step", cube)], drawn=True)["as_stated"], [{"count": 0}])
        # A rod of which a seventh of the volume is gone.
        rod = b"15705.534251651"
        self.assertIn(rod, text)
        (problem,) = read_step([("as1.stp", text.replace(rod, b"18323.12"))])["problems"]
        self.assertEqual(problem["message"], "rod is not what its file states: a volume of 18323.1 mm³, and its shape has 15708.")

    def test_an_assembly_may_refer_to_files_of_its_parts(self) -> None:
        """S1 of the CAx-IF in files of their own: of foot, head and main body a front and a back, of the tail a middle and two turbines. Its heads are
        freely curved: what their writer states of volume and surface holds here within 0.2 %."""
        folder = CAX_IF / "s1-tu-203"
        files = [(f.name, f.read_bytes()) for f in sorted(folder.glob("*.stp"))]
        self.assertEqual(mains_of(files), ["s1-tu-203.stp"])
        said = read_step(files)
        self.assertEqual(said["problems"], [])
        under = {(t["parent"] or "", t["name"]): t["count"] for t in said["tree"]}
        pieces = {"foot": ("footback", "footfront"), "head": ("headback", "headfront"), "mainbody": ("mainbodyback", "mainbodyfront")}
        wanted = {("", "s1"): 1, ("s1", "foot"): 2, ("s1", "head"): 1, ("s1", "mainbody"): 1, ("s1", "tail"): 1}
        wanted |= {("tail", "tailmiddlepart"): 1, ("tail", "tailturbine"): 2} | {(a, b): 1 for a, both in pieces.items() for b in both}
        self.assertEqual(under, wanted)
        head = next(p for p in said["parts"] if p["name"] == "headfront")
        self.assertAlmostEqual(float(head["volume_mm3"]) / 22243.819, 1, places=4)  # what stands in headfront.stp

    def test_a_list_and_an_assembly_are_read_together(self) -> None:
        said = read_files([("list.csv", b"part;quantity\nA-1;2\n"), ("as1.stp", of_cax_if("as1-oc-214.stp"))])
        self.assertEqual((said["rows"][0]["part"], len(said["parts"]), len(said["tree"])), ("A-1", 5, 10))

    def test_what_cannot_be_read_ends_in_a_word(self) -> None:
        whole = of_cax_if("as1-oc-214.stp")
        header = b"ISO-10303-21;\nHEADER;\nFILE_DESCRIPTION((''),'2;1');\nFILE_NAME('','',(''),(''),'','','');\nFILE_SCHEMA(('AUTOMOTIVE_DESIGN'));\nENDSEC;\n"
        for content in (
            b"ISO-10303-21;",
            b"ISO-10303-21;\n" + bytes(range(256)) * 50,
            header + b"DATA;\nENDSEC;\nEND-ISO-10303-21;\n",
            header + b"DATA;\n#1=PRODUCT('a','a','',(#1));\nENDSEC;\nEND-ISO-10303-21;\n",
            whole[: len(whole) // 3],
        ):
            with self.assertRaisesRegex(TallyError, "x.stp"):
                read_step([("x.stp", content)])
        self.assertFalse(is_step(b"") or is_step(b"part;quantity") or is_step(b"<xml>ISO-10303-21;"))
        with patch.object(step, "CLOCK", 0.2), self.assertRaisesRegex(TallyError, "takes more memory or time"):
            read_step([("x.stp", whole)])
