"""Where costs are kept from whoever may only look: what they are answered does not depend on what things cost, whatever they ask for.

All addresses that read are asked as a viewer, with keys of the demo; then everything costs something else, and they are asked again. Whatever
differs would tell of a cost. The same is asked as an engineer, so that it is seen which answers the change shows in.
"""

import io
import re
import zipfile
from decimal import Decimal, InvalidOperation
from typing import Any

from definition.models.parts import Part, PartClass
from definition.models.sheets import BuildSheet
from demo.load_demo import load_demo
from django.apps import apps
from django.db.models import DecimalField, F, JSONField, Model
from django.test import Client, TestCase, override_settings
from findings.models import Finding, Survey
from inquiries.models import ListLine
from lists.columns import COLUMNS
from lists.leaving import LEAVES_AS
from pypdf import PdfReader
from readings import held
from testing import Api

from tally_site.api import api
from tally_site.looked import PRICES, TELLS_COSTS

#: Fields that say what something costs, of whatever table. Three changes of one do not come out alike.
_FIELDS = frozenset(
    [
        "unit_cost",
        "given_cost",
        "markup_percent",
        "selling_price",
        "overhead_percent",
        "labor_rate",
        "setup_labor_rate",
        "machine_rate",
        "overhead_per_hour",
        "overhead_percent_of_labor",
        "piece_rate",
        "unit_price",
        "minimum_charge",
        "cost",
        "value",
        "spent",
        "price",
        "amount",
        "freight",
        "expected",
        "total",
    ]
)
_TEXTS = frozenset(["prices", "rates", "elements", "came_to", "expected"])
_DEARER = Decimal("1.37")
_PRODUCT = "HL-155"


def _dearer(value: Any) -> Any:
    """JSON with all that is a sum made dearer; quantities stand beside them under names of their own."""
    if isinstance(value, dict):
        return {
            name: _dearer(v) if isinstance(v, dict | list) or name not in ("first_day", "day", "set_up", "minutes") else v
            for name, v in value.items()
        }
    if isinstance(value, list):
        return [_dearer(v) for v in value]
    try:
        return str(Decimal(value) * _DEARER) if isinstance(value, str) else value
    except InvalidOperation:
        return value


def _make_all_dearer() -> int:
    changed = 0
    for model in apps.get_models():
        if model._meta.app_label not in ("definition", "shop", "cutting", "standards", "buying"):
            continue
        sums = [f.name for f in model._meta.get_fields() if isinstance(f, DecimalField) and f.name in _FIELDS]
        if sums:
            changed += model._base_manager.update(**{name: F(name) * _DEARER for name in sums})
        for name in [f.name for f in model._meta.get_fields() if isinstance(f, JSONField) and f.name in _TEXTS]:
            for row in model._base_manager.exclude(**{name: None}):
                _write(model, row, name)
    held._held.clear()
    return changed


def _write(model: type[Model], row: Model, name: str) -> None:
    model._base_manager.filter(pk=row.pk).update(**{name: _dearer(getattr(row, name))})


def _plain(content: Any) -> Any:
    """A file as what it says: without the moment it was made in."""
    if not isinstance(content, bytes):
        # A list of parts by CycloneDX is another each time, and says when it was made.
        return {n: v for n, v in content.items() if n not in ("serialNumber", "metadata")} if isinstance(content, dict) else content
    if content[:2] == b"PK":
        with zipfile.ZipFile(io.BytesIO(content)) as packed:
            return {n: _plain(packed.read(n)) for n in packed.namelist() if n != "docProps/core.xml"}
    if content[:4] == b"%PDF":
        return [page.extract_text() for page in PdfReader(io.BytesIO(content)).pages]
    return content


@override_settings(COSTS_HIDDEN=True)
class CostsHidden(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        load_demo(orders=True)

    def asked(self) -> dict[str, tuple[str, dict[str, Any]]]:
        """All addresses that read, each with keys and words that it takes, in several ways."""
        sheets = [
            str(BuildSheet.objects.filter(part__number=n, status="released").values_list("pk", flat=True)[0])
            for n in (_PRODUCT, "HL155-10")
        ]
        queries: list[dict[str, Any]] = [
            {
                "part": number,
                "number": number,
                "sheet": sheet,
                "left": sheet,
                "right": sheets[-1],
                "quantity": "5",
                "figure": f"unit:{key}",
                "part_id": key,
            }
            for number, sheet in zip((_PRODUCT, "HL155-10"), sheets, strict=True)
            for key in [Part.objects.get(number=number).pk]
        ]
        bought = Part.objects.filter(kind="bought").exclude(unit_cost=None).order_by("number")[0]
        queries.append({"part": bought.number, "number": bought.number, "code": "SMT", "search": bought.number})
        every = {m.__name__.lower(): list(m._base_manager.order_by("pk").values_list("pk", flat=True)) for m in apps.get_models()}
        keys = {name: of[:2] + of[-2:] for name, of in every.items()}
        found = {}
        for path, operations in api.get_openapi_schema(path_prefix="/api/")["paths"].items():
            if "get" not in operations:
                continue
            names = re.findall(r"{(\w+)}", path)
            for shape in ("csv", "xlsx", "pdf", "txt", "json", "svg") if "shape" in names else ("",):
                for at in range(4):
                    filled = path.removeprefix("/api").replace("{shape}", shape)
                    for name in names:
                        stem = name.removesuffix("_id").replace("_", "")
                        pool = sheets if stem == "sheet" else [k for m, of in keys.items() if stem in m for k in of] or [1, 2, 3]
                        filled = filled.replace("{" + name + "}", str(pool[at % len(pool)]))
                    for n, query in enumerate(queries):
                        found[f"{filled} {n}"] = (filled, query)
        for shape in LEAVES_AS:
            found[f"list as {shape}"] = ("/lists/file", {"part": _PRODUCT, "shape": shape, "column": list(COLUMNS)[:40]})
        found["look at a list"] = ("/lists/look", {"part": _PRODUCT, "column": list(COLUMNS)[:40], "sort": "cost", "down": "true"})
        return found

    def answers(self, who: Api, asked: dict[str, tuple[str, dict[str, Any]]]) -> dict[str, Any]:
        return {name: (status, _plain(said)) for name, (path, query) in asked.items() for status, said in [who.get(path, **query)]}

    def test_what_a_viewer_is_answered_does_not_depend_on_costs(self) -> None:
        viewer, engineer, asked = Api("viewer"), Api("engineer"), self.asked()
        # Who changes things sees them; a part of the addresses is enough to show that the change is one.
        some = {name: of for name, of in asked.items() if name.endswith(" 0") and "/pdf" not in of[0]}
        before, seen = self.answers(viewer, asked), self.answers(engineer, some)
        self.assertGreater(_make_all_dearer(), 100)
        after, seen_after = self.answers(viewer, asked), self.answers(engineer, some)
        told = {name: _difference(before[name], after[name]) for name in asked if before[name] != after[name]}
        self.assertEqual(told, {}, "\n".join(f"{name}: {words}" for name, words in told.items()))
        shown = {asked[name][0] for name in some if seen[name] != seen_after[name]}
        told_to_others = {
            "/parts",
            "/parts/list/csv",
            "/work-centers",
            "/costing/working",
            "/questions/inputs",
            "/shop/orders",
            "/shop/stock",
            "/orders",
        }
        self.assertLessEqual(told_to_others, shown)
        # Where costs are told, a look is noted where that is set.
        self.assertEqual([path for path in sorted(shown) if not (TELLS_COSTS.match(f"/api{path}") or PRICES.match(f"/api{path}"))], [])
        read = [name for name in asked if before[name][0] == 200]
        self.assertGreater(len({asked[name][0] for name in read}), 60)

    def test_no_search_finds_a_part_by_what_it_costs(self) -> None:
        """A price in a field of its class would be found digit by digit; what else its fields say is found as ever."""
        made = PartClass.objects.create(
            name="Priced", fields=[{"name": "list_price", "kind": "money", "unit": "EUR"}, {"name": "finish", "kind": "text"}]
        )
        part = Part.objects.get(number=_PRODUCT)
        part.part_class, part.own_values = made.name, {"list_price": "91827.364", "finish": "satinwood"}
        part.save()
        Finding.objects.create(survey=Survey.objects.create(), code="twice", severity="look", part=part)
        line = ListLine.objects.filter(file__replaced_by=None)[0]
        roads = {
            "/parts": lambda said: said["total"],
            "/parts/list/csv": lambda said: part.number in said.decode(),
            "/sheets/list": lambda said: said["total"],
            "/findings": lambda said: said["total"],
            f"/inquiries/{line.inquiry_id}/lines/{line.pk}/like": len,
        }
        for road, found in roads.items():
            for who, sees in ((Api("viewer"), False), (Api("engineer"), True)):
                for word, wanted in (("satinwood", True), ("91827", sees), ("list_price", sees), ("satinwood 91827.364", sees)):
                    with self.subTest(road=road, sees=sees, word=word):
                        status, said = who.get(road, search=word)
                        self.assertEqual((status, bool(found(said))), (200, wanted))

    def test_who_changes_something_sees_costs_and_whoever_reads_by_their_token_does_not_see_more(self) -> None:
        viewer, engineer = Api("viewer"), Api("engineer")
        self.assertEqual([viewer.get("/session")[1]["sees_costs"], engineer.get("/session")[1]["sees_costs"]], [False, True])
        bought = Part.objects.filter(kind="bought").exclude(unit_cost=None)[0].number
        of = {name: who.get("/parts/one", number=bought)[1] for name, who in (("viewer", viewer), ("engineer", engineer))}
        self.assertEqual((of["viewer"]["unit_cost"], bool(of["engineer"]["unit_cost"])), ("", True))
        status, said = viewer.get("/rounds")
        self.assertEqual((status, said["message"][:14]), (403, "What things co"))
        with override_settings(COSTS_HIDDEN=False):
            self.assertEqual(viewer.get("/parts/one", number=bought)[1], of["engineer"])
        token = viewer.post("/tokens", {"name": "Board", "subjects": ["parts", "costs"], "days": 30})[1]["token"]
        by_token = Client(headers={"Authorization": f"Bearer {token}"})
        self.assertEqual(by_token.get(f"/api/parts/one?number={bought}").json()["unit_cost"], "")
        self.assertEqual(by_token.get("/api/costing/standards?number=X").status_code, 403)


def _difference(one: Any, other: Any, at: str = "") -> str:
    if isinstance(one, dict) and isinstance(other, dict):
        return (
            "; ".join(_difference(one[k], other[k], f"{at}.{k}") for k in one if k in other and one[k] != other[k])[:300]
            or f"{at}: other names"
        )
    if isinstance(one, list | tuple) and isinstance(other, list | tuple) and len(one) == len(other):
        return "; ".join(_difference(a, b, f"{at}[{n}]") for n, (a, b) in enumerate(zip(one, other, strict=True)) if a != b)[:300]
    return f"{at}: {str(one)[:80]} / {str(other)[:80]}"
