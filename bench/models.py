"""Models: an assembly read against the kernel's own reading of it; balloons around a view against sorting them by angle."""

import math
import random
import subprocess
import sys
import tempfile
import time
from pathlib import Path
from typing import Any

from bench.measure import median, report

__all__ = ["assembly_against_the_kernel", "balloons_against_sorting"]

_BARE = """
import sys
from OCP.STEPCAFControl import STEPCAFControl_Reader
from OCP.TCollection import TCollection_ExtendedString
from OCP.TDocStd import TDocStd_Document
reader = STEPCAFControl_Reader()
reader.SetNameMode(True)
reader.ReadFile(sys.argv[1])
reader.Transfer(TDocStd_Document(TCollection_ExtendedString("bare")))
"""


def _assembly(places: int, kinds: int) -> bytes:
    """So many placed parts of so many kinds: plates with holes, bushes and pins, in rows."""
    from demo.shapes import assembly
    from OCP.BRepAlgoAPI import BRepAlgoAPI_Cut
    from OCP.BRepPrimAPI import BRepPrimAPI_MakeBox, BRepPrimAPI_MakeCylinder
    from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt

    dice, parts = random.Random(5), []
    for kind in range(kinds):
        x, y, z = dice.uniform(20, 90), dice.uniform(20, 60), dice.uniform(3, 20)
        shape: Any = BRepPrimAPI_MakeBox(x, y, z).Shape()
        for at in range(kind % 7):
            axis = gp_Ax2(gp_Pnt(x * (at + 1) / 9, y / 2, -1), gp_Dir(0, 0, 1))
            shape = BRepAlgoAPI_Cut(shape, BRepPrimAPI_MakeCylinder(axis, 1.5, z + 2).Shape()).Shape()
        each = places // kinds + (kind < places % kinds)
        parts.append((f"K{kind:03}", shape, [(120.0 * at, 100.0 * kind, 0.0) for at in range(each)]))
    return assembly("TOP", parts)


def assembly_against_the_kernel(places: int, kinds: int) -> bool:
    """To tree, counts and sizes, in a process of its own, against a process that only reads and transfers."""
    from formats.step import read_step

    content = _assembly(places, kinds)
    with tempfile.TemporaryDirectory() as folder:
        file = Path(folder) / "top.step"
        file.write_bytes(content)
        bare = median(lambda: subprocess.run([sys.executable, "-c", _BARE, str(file)], stdout=subprocess.DEVNULL, check=True), 3)
    said: dict[str, Any] = {}
    ours = median(lambda: said.update(read_step([("top.step", content)])), 3)
    assert sum(p["count"] for p in said["parts"]) == places and len(said["parts"]) == kinds
    began = time.perf_counter()
    read_step([("top.step", content)], drawn=True)
    drawn = time.perf_counter() - began
    words = f"assembly of {places:,} places of {kinds} kinds / bare read and transfer"
    more = f"{ours:.2f} and {bare:.2f} s, {len(content) / 1e6:.1f} MB; with drawings and views {drawn:.1f} s"
    return report(words, ours / bare, "at most 1.3", ours / bare <= 1.3, more)


def balloons_against_sorting(count: int) -> bool:
    """So many balloons around a view on A1, without a crossing."""
    from tally_core.drawings.balloons import Box, crossings, place_balloons

    dice = random.Random(3)
    box = Box(220, 160, 400, 270)
    points = [(box.x + dice.random() * box.width, box.y + dice.random() * box.height) for _ in range(count)]
    middle = (box.x + box.width / 2, box.y + box.height / 2)
    sorting = median(lambda: sorted(points, key=lambda p: math.atan2(p[1] - middle[1], p[0] - middle[0])))
    placed = place_balloons(points, box, 5, Box(0, 0, 841, 594))
    ours = median(lambda: place_balloons(points, box, 5, Box(0, 0, 841, 594)))
    crossed = len(crossings(list(zip(points, placed, strict=True))))
    words = f"{count} balloons placed / sorted by angle"
    held = crossed == 0 and ours / sorting < 20
    return report(words, ours / sorting, "under 20, 0 crossings", held, f"{1000 * ours:.1f} ms, {crossed} crossings")
