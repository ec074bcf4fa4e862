"""A product as a bill of materials by CycloneDX 1.6 (ECMA-424), in JSON: assemblies hold their components."""

from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import datetime
from typing import Any
from uuid import UUID

import orjson

__all__ = ["Component", "cyclonedx_document"]

#: What the format has no word for stands as a property of a name that begins so.
_OURS = "round-tally:"


@dataclass(slots=True)
class Component:
    """A part where it stands: what it is, who makes and sells it, and under ``properties`` whatever else is said of it there."""

    number: str
    words: str
    revision: str = ""
    maker: str = ""
    supplier: str = ""
    properties: dict[str, str] = field(default_factory=dict)
    under: list["Component"] = field(default_factory=list)


def cyclonedx_document(top: Component, serial: UUID, at: datetime, version: str) -> bytes:
    """The document of a product. Each component has a reference that says where it stands, like ``HL-155/20/HL155-11``."""
    dependencies: list[dict[str, Any]] = []
    head = _component(top, top.number, dependencies)
    below = head.pop("components", [])
    document = {
        "$schema": "http://cyclonedx.org/schema/bom-1.6.schema.json",
        "bomFormat": "CycloneDX",
        "specVersion": "1.6",
        "serialNumber": serial.urn,
        "version": 1,
        "metadata": {
            "timestamp": at.isoformat(timespec="seconds"),
            "tools": {"components": [{"type": "application", "name": "Round Tally", "version": version}]},
            "component": head,
        },
        "components": below,
        "dependencies": dependencies,
    }
    return orjson.dumps(document, option=orjson.OPT_INDENT_2)


def _component(of: Component, reference: str, dependencies: list[dict[str, Any]]) -> dict[str, Any]:
    made: dict[str, Any] = {"type": "device", "bom-ref": reference, "name": of.number}
    if of.revision:
        made["version"] = of.revision
    if of.words:
        made["description"] = of.words
    if of.maker:
        made["manufacturer"] = {"name": of.maker}
    if of.supplier:
        made["supplier"] = {"name": of.supplier}
    if of.properties:
        made["properties"] = [{"name": f"{_OURS}{name}", "value": value} for name, value in of.properties.items()]
    if of.under:
        references = _references(of.under, reference)
        dependencies.append({"ref": reference, "dependsOn": references})
        made["components"] = [_component(c, r, dependencies) for c, r in zip(of.under, references, strict=True)]
    return made


def _references(under: Sequence[Component], above: str) -> list[str]:
    found: dict[str, int] = {}
    made = []
    for component in under:
        name = f"{above}/{component.properties.get('item', '')}/{component.number}"
        found[name] = found.get(name, 0) + 1
        made.append(name if found[name] == 1 else f"{name}#{found[name]}")
    return made
