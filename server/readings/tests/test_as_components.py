"""A product by CycloneDX 1.6, against the JSON Schema of the standard (ECMA-424), which comes with the package cyclonedx-python-lib."""

import json
from typing import Any

from cyclonedx.schema import SchemaVersion
from cyclonedx.validation.json import JsonStrictValidator
from django.test import TestCase
from testing import Api, load

_BUNDLE: dict[str, Any] = {
    "format": "round-tally-bundle",
    "version": 1,
    "work_centers": [{"code": "W"}],
    "parts": [
        {"number": "LAMP", "kind": "made", "unit": "ea", "description": "=Lamp <&>"},
        {"number": "STEM", "kind": "made", "unit": "ea"},
        {
            "number": "SCR",
            "kind": "bought",
            "unit": "ea",
            "material": "steel",
            "supplier": "Fathom Bolts",
            "maker_numbers": [{"maker": "Nordry", "number": "N-5"}, {"maker": "Other", "number": "O-5", "rank": 2}],
        },
        {"number": "TUBE", "kind": "bought", "unit": "m"},
        {"number": "GREASE", "kind": "bought", "unit": "g"},
        {"number": "CHIPS", "kind": "bought", "unit": "kg"},
    ],
    "build_sheets": [
        {
            "part": "LAMP",
            "revision": "C",
            "status": "released",
            "operations": [{"sequence": 10, "name": "Fit", "work_center": "W"}],
            "lines": [
                {"item": 10, "part": "SCR", "quantity": "4", "reference_designators": ["S2", "S1"]},
                {"item": 10, "part": "SCR", "quantity": "1"},
                {"item": 20, "part": "STEM", "quantity": "2"},
                {"item": 30, "part": "TUBE", "quantity": "500", "unit": "mm"},
                {"item": 40, "part": "GREASE"},
                {"item": 50, "part": "SCR", "quantity": "1", "not_fitted": True},
                {"item": 60, "kind": "byproduct", "part": "CHIPS", "quantity": "0.1"},
                {"item": 70, "kind": "text", "text": "Mind the glass."},
            ],
        },
        {"part": "STEM", "revision": "B", "status": "released", "lines": [{"item": 10, "part": "SCR", "quantity": "1"}]},
    ],
}


def properties(component: dict[str, Any]) -> dict[str, str]:
    return {p["name"].removeprefix("round-tally:"): p["value"] for p in component.get("properties", [])}


class AsComponents(TestCase):
    def test_it_holds_against_the_schema_and_says_what_the_sheet_says(self) -> None:
        load(_BUNDLE)
        status, document = Api("viewer").get("/lists/file", part="LAMP", shape="cyclonedx")
        self.assertEqual(status, 200)
        self.assertIsNone(JsonStrictValidator(SchemaVersion.V1_6).validate_str(json.dumps(document)))
        top = document["metadata"]["component"]
        self.assertEqual((top["name"], top["version"], top["description"], top["bom-ref"]), ("LAMP", "C", "=Lamp <&>", "LAMP"))
        below = document["components"]
        # No text, nothing that comes back; what is taken as needed and what is not fitted are there.
        self.assertEqual([c["name"] for c in below], ["SCR", "SCR", "STEM", "TUBE", "GREASE", "SCR"])
        self.assertEqual(len({c["bom-ref"] for c in below}), 6)
        screw = below[0]
        self.assertEqual((screw["manufacturer"], screw["supplier"]), ({"name": "Nordry"}, {"name": "Fathom Bolts"}))
        self.assertEqual(
            properties(screw),
            {
                "item": "10",
                "quantity": "4",
                "quantity-unit": "ea",
                "designators": "S2, S1",
                "kind": "bought",
                "unit": "ea",
                "maker-number": "N-5",
                "material": "steel",
            },
        )
        self.assertEqual((properties(below[3])["quantity"], properties(below[3])["quantity-unit"]), ("500", "mm"))
        self.assertEqual((properties(below[4]).get("quantity"), properties(below[5])["not-fitted"]), (None, "yes"))
        self.assertEqual([(c["name"], c["bom-ref"]) for c in below[2]["components"]], [("SCR", "LAMP/20/STEM/10/SCR")])
        self.assertEqual({d["ref"]: len(d["dependsOn"]) for d in document["dependencies"]}, {"LAMP": 6, "LAMP/20/STEM": 1})
        # The schema does refuse.
        for broken in (document | {"bomFormat": "other"}, document | {"components": [{"name": "x"}]}):
            self.assertIsNotNone(JsonStrictValidator(SchemaVersion.V1_6).validate_str(json.dumps(broken)))
