"""A plan on paper and as files: the list of pieces, the patterns to scale, labels, and the patterns for a machine."""

import io
from collections.abc import Iterator
from decimal import Decimal
from html import escape
from typing import Any

import ezdxf
from ezdxf.document import Drawing
from formats.document import Table, labels_pdf, pdf
from formats.flat import Cell, Column, list_csv, list_workbook
from tally_core.basics.errors import TallyError

from cutting.models import CutPlan

__all__ = ["SHAPES", "paper_of"]

#: What a plan leaves as, and the end of its file's name.
SHAPES = {"xlsx": "xlsx", "csv": "csv", "pdf": "pdf", "labels": "labels.pdf", "dxf": "dxf"}
_TITLES = (
    ("Material", False),
    ("Piece", False),
    ("Of", False),
    ("Count", True),
    ("Length, mm", True),
    ("Width, mm", True),
    ("Grain", False),
    ("Edging front, back, left, right", False),
    ("Cut length, mm", True),
    ("Cut width, mm", True),
)
_MOST_LABELS = 3000


def paper_of(plan: CutPlan, shape: str) -> bytes:
    """The content of a plan in a shape. Raises TallyError for one that was not made, and for more labels than anybody sticks on."""
    if plan.said is None:
        raise TallyError(f"{plan.number} has not been made yet.")
    materials = plan.said["materials"]
    if shape == "xlsx":
        return list_workbook(plan.number, [Column(t, n) for t, n in _TITLES], list(_rows(materials)))
    if shape == "csv":
        return list_csv([Column(t, n) for t, n in _TITLES], list(_rows(materials))).encode("utf-8-sig")
    if shape == "labels":
        return _labels(plan, materials)
    return _patterns_dxf(plan, materials) if shape == "dxf" else _pdf(plan, materials)


def _rows(materials: list[dict[str, Any]]) -> Iterator[list[Cell]]:
    for material in materials:
        for p in material["pieces"]:
            numbers = [None if p[n] is None else float(p[n]) for n in ("length", "width", "cut_length", "cut_width")]
            yield [
                material["part"],
                p["name"],
                p["parent"],
                p["count"],
                numbers[0],
                numbers[1],
                "" if p["grain"] == "none" else f"along the {p['grain']}",
                " / ".join(p["edges"]) if any(e != "0" for e in p["edges"]) else "",
                numbers[2],
                numbers[3],
            ]


def _pdf(plan: CutPlan, materials: list[dict[str, Any]]) -> bytes:
    pieces = [["" if c is None else f"{c:g}" if isinstance(c, float) else str(c) for c in row] for row in _rows(materials)]
    stock = [
        [m["part"], m["description"], f"{u['count']} × {u['stock']} mm" + (", a leftover" if u["leftover"] else ""), str(len(u["placed"]))]
        for m in materials
        for u in m["used"]
    ]
    totals = [
        [
            m["part"],
            m["description"],
            str(m["count"]),
            f"{float(m['waste_percent']):.1f} %",
            "proven the least" if m["proven"] else f"at least {m['bound']}" + (" in cost" if m["bound_of"] == "cost" else ""),
            m["stops"],
        ]
        for m in materials
    ]
    builds = ", ".join(f"{b['quantity']} {b['part']}" for b in plan.builds)
    facts = [
        f"For {builds}",
        f"Kerf {plan.kerf_mm.normalize():f} mm; leftovers from {plan.keep_mm.normalize():f} mm are kept",
        f"Planned {plan.made_at:%Y-%m-%d} by {plan.made_by}",
    ]
    tables = [
        Table("Pieces", [(t, "pn" if t == "Material" else "n" if n else "") for t, n in _TITLES], pieces),
        Table("Taken", [("Material", "pn"), ("Description", ""), ("Stock", ""), ("Pieces on one", "n")], stock),
        Table("Materials", [("Material", "pn"), ("Description", ""), ("Taken", "n"), ("Waste", "n"), ("Bound", ""), ("", "")], totals),
    ]
    figures = [
        (f"{m['part']}: {u['count']} × {u['stock']} mm{', a leftover' if u['leftover'] else ''}", _svg(u, Decimal(plan.kerf_mm)))
        for m in materials
        for u in m["used"]
    ]
    return pdf(f"Cutting {plan.number}", facts, tables, figures)


def _svg(used: dict[str, Any], kerf: Decimal) -> str:
    """A pattern to scale; a bar is drawn as high as reads well."""
    long, high = float(used["length"]), float(used["width"] or 0)
    height = high or long / 28
    unit = long / 100
    shapes = [f'<rect x="0" y="0" width="{long:g}" height="{height:g}" fill="#e7eceb" stroke="#11191b" stroke-width="{unit / 12:g}"/>']
    for p in used["placed"]:
        x, y, along = float(p["x"]), float(p["y"]), float(p["along"])
        across = float(p["across"]) if high else height
        size = min(unit * 1.5, across * 0.5, along / max(len(p["name"]), 1) * 1.4)
        shapes.append(
            f'<rect x="{x:g}" y="{y:g}" width="{along:g}" height="{across:g}" fill="#fbfcfb" stroke="#11191b" stroke-width="{unit / 14:g}"/>'
            f'<text x="{x + along / 2:g}" y="{y + across / 2 + size / 3:g}" text-anchor="middle" font-size="{size:g}">{escape(p["name"])}</text>'
        )
    width, tall = long + unit, height + unit
    return f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="{-unit / 2:g} {-unit / 2:g} {width:g} {tall:g}">{"".join(shapes)}</svg>'


def _labels(plan: CutPlan, materials: list[dict[str, Any]]) -> bytes:
    if sum(p["count"] for m in materials for p in m["pieces"]) > _MOST_LABELS:
        raise TallyError(f"{plan.number} has more than {_MOST_LABELS:,} pieces; print labels for smaller plans.")
    labels = []
    for m in materials:
        for p in m["pieces"]:
            size = " × ".join(x for x in (p["length"], p["width"]) if x is not None)
            edges = f"edging {' / '.join(p['edges'])}" if any(e != "0" for e in p["edges"]) else ""
            for at in range(1, p["count"] + 1):
                lines = [f"{size} mm", f"{m['part']} {m['description']}"[:60], edges, f"{plan.number}   {at} of {p['count']}"]
                labels.append((p["name"], [x for x in lines if x]))
    return labels_pdf(f"Labels {plan.number}", labels)


def _patterns_dxf(plan: CutPlan, materials: list[dict[str, Any]]) -> bytes:
    """Every pattern at true size in millimetres, one above another: stock, pieces and names on layers of their own."""
    drawing: Drawing = ezdxf.new("R2010", units=ezdxf.units.MM)
    for layer in ("STOCK", "PIECES", "NAMES"):
        drawing.layers.add(layer)
    space, down = drawing.modelspace(), 0.0
    for m in materials:
        for u in m["used"]:
            long, high = float(u["length"]), float(u["width"] or 50)
            space.add_lwpolyline(_corners(0, down, long, high), close=True, dxfattribs={"layer": "STOCK"})
            space.add_text(
                f"{m['part']} {u['count']} x {u['stock']}", height=20, dxfattribs={"layer": "NAMES", "insert": (0, down + high + 10)}
            )
            for p in u["placed"]:
                x, y, along = float(p["x"]), float(p["y"]) + down, float(p["along"])
                across = float(p["across"]) if u["width"] else high
                space.add_lwpolyline(_corners(x, y, along, across), close=True, dxfattribs={"layer": "PIECES"})
                space.add_text(p["name"], height=min(15.0, across / 3), dxfattribs={"layer": "NAMES", "insert": (x + 5, y + across / 3)})
            down += high + 80
    text = io.StringIO()
    drawing.write(text)
    return text.getvalue().encode()


def _corners(x: float, y: float, along: float, across: float) -> list[tuple[float, float]]:
    return [(x, y), (x + along, y), (x + along, y + across), (x, y + across)]
