"""Board layouts by IPC-2581 (revisions A to C): components with their places, the bill and the makers' numbers it carries.

Elements and attributes are those of the standard, from memory; namespaces are passed over, so that all revisions read alike.
"""

import io
import xml.etree.ElementTree as ET
from decimal import Decimal, InvalidOperation
from typing import Any

from tally_core.basics.errors import TallyError

__all__ = ["is_layout", "parse_layout"]

MOST_PLACES = 500_000
MOST_PACKAGES, MOST_CORNERS = 20_000, 2_000
#: Millimetres in one of the units that a layout may state.
_UNITS = {"MILLIMETER": Decimal(1), "MICRON": Decimal("0.001"), "INCH": Decimal("25.4")}


def is_layout(content: bytes) -> bool:
    """Whether a file says of itself that it is one; only its beginning is looked at."""
    return b"<IPC-2581" in content[:4096]


def parse_layout(name: str, content: bytes) -> dict[str, Any]:
    """``places`` (as in the contract), ``rows`` of its bill, ``problems``, and the ``board`` with its outline and packages, in millimetres. Raises TallyError for what is no such file."""
    # A layout needs no declarations of its own; without them XML holds nothing that grows or leads elsewhere.
    if b"\x00" in content:
        raise TallyError(f"{name} is not written in UTF-8; save the layout so and bring it in again.")
    if b"<!DOCTYPE" in content or b"<!ENTITY" in content:
        raise TallyError(f"{name} declares a document type or entities of its own; a layout needs none, and they are not read.")
    try:
        return _Layout().read(content)
    except ET.ParseError as error:
        raise TallyError(f"{name} breaks off or is damaged: line {error.position[0]} is not XML.") from None
    except LookupError:
        raise TallyError(f"{name} is written in an encoding that nobody knows; save the layout in UTF-8 and bring it in again.") from None


def _tag(element: ET.Element) -> str:
    return element.tag.rsplit("}", 1)[-1]


def _number(text: str | None) -> Decimal:
    try:
        value = Decimal((text or "0").strip())
    except InvalidOperation:
        raise TallyError(f"“{(text or '')[:40]}” is not a number of a layout.") from None
    if not value.is_finite() or abs(value) > Decimal("1e9"):
        raise TallyError(f"“{(text or '')[:40]}” is not a usable number of a layout.")
    return value


class _Layout:
    #: Elements that are read when they end; each has a method of its name.
    _TAKEN = ("Layer", "Enterprise", "Component", "Profile", "Package", "BomItem", "AvlItem")

    def __init__(self) -> None:
        self.unit = Decimal(1)
        self.sides: dict[str, str] = {}
        self.places: list[dict[str, Any]] = []
        self.bill: list[dict[str, Any]] = []
        self.makers: dict[str, list[tuple[str, str]]] = {}
        self.firms: dict[str, str] = {}
        self.left_out: set[str] = set()
        self.outline: list[list[float]] = []
        self.packages: dict[str, list[float]] = {}

    def read(self, content: bytes) -> dict[str, Any]:
        root = ""
        # Piece by piece, so that a layout of a million places is never held as a tree.
        for event, element in ET.iterparse(io.BytesIO(content), events=("start", "end")):
            tag = _tag(element)
            if event == "start":
                root = root or tag
                if tag == "CadHeader":
                    self._units(element)
                continue
            if tag in self._TAKEN:
                getattr(self, f"_{tag.lower()}")(element)
                element.clear()
        if root != "IPC-2581":
            raise TallyError("This is XML, but no board layout by IPC-2581.")
        return self._answer()

    def _units(self, element: ET.Element) -> None:
        stated = element.get("units", "MILLIMETER").upper()
        if stated not in _UNITS:
            raise TallyError(f"The layout is in {stated[:20]}; known are {', '.join(_UNITS).lower()}.")
        self.unit = _UNITS[stated]

    def _layer(self, element: ET.Element) -> None:
        self.sides[element.get("name", "")] = {"TOP": "top", "BOTTOM": "bottom"}.get(element.get("side", "").upper(), "")

    def _enterprise(self, element: ET.Element) -> None:
        self.firms[element.get("id", "")] = element.get("name") or element.get("code") or ""

    def _component(self, element: ET.Element) -> None:
        if len(self.places) >= MOST_PLACES:
            raise TallyError(f"A layout has at most {MOST_PLACES:,} components.")
        at = {_tag(child): child for child in element}
        where, turned = at.get("Location"), at.get("Xform")
        side = self.sides.get(element.get("layerRef", ""), "")
        self.places.append(
            {
                "designator": element.get("refDes", ""),
                "package": element.get("packageRef", ""),
                "x": _number(where.get("x") if where is not None else "0") * self.unit,
                "y": _number(where.get("y") if where is not None else "0") * self.unit,
                "rotation": (_number(turned.get("rotation", "0") if turned is not None else "0") % 360 + 360) % 360,
                "side": side or ("bottom" if turned is not None and turned.get("mirror", "").lower() == "true" else "top"),
            }
        )

    def _profile(self, element: ET.Element) -> None:
        """The outline of the board; a second one is of a panel or a cut-out, and is passed over."""
        if not self.outline:
            self.outline = self._polygon(element)

    def _package(self, element: ET.Element) -> None:
        """The least box around a package's own outline: left, bottom, right, top."""
        own = [c for c in element if _tag(c) == "Outline"]
        points = self._polygon(own[0]) if own else []
        if points and len(self.packages) < MOST_PACKAGES:
            xs, ys = [p[0] for p in points], [p[1] for p in points]
            self.packages[element.get("name", "")] = [min(xs), min(ys), max(xs), max(ys)]

    def _polygon(self, element: ET.Element) -> list[list[float]]:
        # Arcs are drawn as the straight line between their ends: it is a picture to find one's way by.
        corners = [c for c in element.iter() if _tag(c) in ("PolyBegin", "PolyStepSegment", "PolyStepCurve")]
        return [[float(round(_number(c.get(axis)) * self.unit, 4)) for axis in ("x", "y")] for c in corners[:MOST_CORNERS]]

    def _bomitem(self, element: ET.Element) -> None:
        places = [(c.get("name", ""), c.get("populate", "true").lower() != "false") for c in element if _tag(c) == "RefDes"]
        self.left_out |= {name for name, fitted in places if not fitted}
        number = element.get("OEMDesignNumberRef", "")
        texts = [
            c.get("textualCharacteristicValue", "")
            for c in element.iter()
            if _tag(c) == "Textual" and c.get("textualCharacteristicName", "").casefold() in ("description", "desc")
        ]
        self.bill.append(
            {
                "part": number,
                "description": element.get("description") or (texts[0] if texts else ""),
                "quantity": element.get("quantity", ""),
                "designators": [name for name, _ in places],
                "not_fitted": bool(places) and not any(fitted for _, fitted in places),
            }
        )

    def _avlitem(self, element: ET.Element) -> None:
        found: list[tuple[str, str]] = []
        for choice in (c for c in element if _tag(c) == "AvlVmpn"):
            numbers = [c.get("name", "") for c in choice.iter() if _tag(c) == "AvlMpn"]
            firms = [c.get("enterpriseRef", "") for c in choice.iter() if _tag(c) == "AvlVendor"]
            if numbers:
                found.append((self.firms.get(firms[0], firms[0]) if firms else "", numbers[0]))
        self.makers[element.get("OEMDesignNumber", "")] = found

    def _answer(self) -> dict[str, Any]:
        problems: list[dict[str, Any]] = []
        placed: set[str] = set()
        for place in self.places:
            if place["designator"] in placed:
                problems.append({"row": 0, "message": f"{place['designator'][:40]} is placed twice"})
            placed.add(place["designator"])
        if self.bill:
            listed = {d for row in self.bill for d in row["designators"]}
            for words, some in (
                ("is placed and stands in no bill", placed - listed),
                ("stands in the bill and is not placed", listed - placed),
            ):
                problems += [{"row": 0, "message": f"{name[:40]} {words}"} for name in sorted(some)[:100]]
        return {
            "places": [
                {
                    "designator": p["designator"],
                    "package": p["package"],
                    **{f"{axis}_mm": f"{round(p[axis], 6).normalize() + 0:f}" for axis in ("x", "y")},
                    "rotation": f"{p['rotation'].normalize() + 0:f}",
                    "side": p["side"],
                    "fitted": p["designator"] not in self.left_out,
                }
                for p in self.places
            ],
            "rows": [self._row(number, row) for number, row in enumerate(self.bill, 1)],
            "problems": problems,
            "board": {"outline": self.outline, "packages": self.packages},
        }

    def _row(self, number: int, row: dict[str, Any]) -> dict[str, Any]:
        maker, maker_number = next(iter(self.makers.get(row["part"], [])), ("", ""))
        quantity = row["quantity"] or str(len(row["designators"]))
        return {
            "row": number,
            "part": row["part"],
            **({"description": row["description"]} if row["description"] else {}),
            "quantity": f"{_number(quantity).normalize() + 0:f}",
            **({"maker": maker, "maker_number": maker_number} if maker_number else {}),
            "designators": row["designators"],
            "not_fitted": row["not_fitted"],
        }
