"""The rows of a draft while changes are laid on them, before any of it is saved."""

from typing import Any
from uuid import UUID

from definition.as_shown import line_values, operation_values, plain_value
from definition.models.parts import Part
from definition.models.sheets import BuildSheet, Line, Operation, Option
from definition.models.work_centers import StandardOperation, WorkCenter
from definition.records import (
    line_columns,
    operation_columns,
    operation_record,
    plain_decimal,
    resource_columns,
    resource_record,
    sheet_record,
)
from definition.shown_files import show_files, wrong_files
from django.db.models import prefetch_related_objects
from django.db.models.functions import Upper
from partners.naming import partners_named
from simple_history.utils import bulk_create_with_history, bulk_update_with_history
from tally_core.basics.errors import Problem, ProblemsError
from tally_core.stated import definition as core
from tally_core.stated.bundle_schema import needed
from tally_core.stated.reading import RecordReader
from tally_core.stated.records import check_line, check_operation, check_resource, check_sheet

from verbs.parts.save_part import save_part
from verbs.sheets.stale import HEAD

__all__ = ["Draft"]

#: Up to so many changed rows are saved one by one.
_FEW = 4


def _texts(changes: list[dict], name: str) -> set[str]:
    """What the changes give a field, where it is text that a database can be asked for."""
    values = (c["after"].get(name) for c in changes if c["after"])
    return {v for v in values if isinstance(v, str) and v and "\x00" not in v}


class Draft:
    """The rows of one draft while changes are laid on them."""

    def __init__(self, user: Any, sheet: BuildSheet) -> None:
        self.user, self.sheet = user, sheet
        self.made: list[str] = []
        self.operations = {o.id: o for o in sheet.operations.select_related("work_center", "standard")}
        self.lines = {x.id: x for x in sheet.lines.select_related("part", "option")}
        for line in self.lines.values():
            # The very row that is edited here: its number may change.
            line.operation = self.operations[line.operation_id] if line.operation_id else None
        self.shown: dict[UUID, list[int]] = {}
        self.fresh: set[UUID] = set()
        self.changed: set[UUID] = set()
        self.removed: list[Line | Operation] = []
        self.problems: list[Problem] = []
        self.components_changed = False

    def refuse_strangers(self, changes: list[dict]) -> None:
        """Raise ProblemsError for changes that fit no row of this sheet, whoever sent them."""
        lines, operations = self.lines.keys(), self.operations.keys()
        for model, table, held, others in ((Line, "line", lines, operations), (Operation, "operation", operations, lines)):
            keys = [c["id"] for c in changes if c["table"] == table]
            fresh = [key for key in keys if key not in held]
            asked = [key for key in fresh if key]
            elsewhere = set(model.objects.filter(id__in=asked).values_list("id", flat=True)) if asked else set()
            for change in (c for c in changes if c["table"] == table and c["id"] not in held):
                if change["id"] is None or change["id"] in elsewhere or change["id"] in others:
                    self._wrong(change["id"], "id", f"this is no {table} of this sheet")
                elif change["before"] is not None:
                    self._wrong(change["id"], "id", f"this {table} is no longer on the sheet")
            if len(set(keys)) < len(keys):
                self._wrong(table, "id", f"the same {table} is changed twice at once")
        if any(c["table"] == "sheet" and c["after"] is None for c in changes):
            self._wrong("sheet", "", "a sheet's head cannot be taken away")
        if self.problems:
            raise ProblemsError(self.problems)

    def lay(self, changes: list[dict]) -> None:
        operations = [c for c in changes if c["table"] == "operation"]
        lines = [c for c in changes if c["table"] == "line"]
        self._find_names(operations, lines)
        # Most edits are of lines, and ask for no files.
        prefetch_related_objects([self.operations[c["id"]] for c in operations if c["id"] in self.operations], "shown")
        for change in changes:
            if change["table"] == "sheet":
                self._head(change)
        kept = [c for c in operations if c["after"] is not None]
        # What works beside an operation is read against it.
        for change in sorted(kept, key=self._is_beside):
            (self._resource if self._is_beside(change) else self._operation)(change)
        self._follow_operations()
        for change in lines:
            self._line(change)
        for change in operations:
            if change["after"] is None:
                self._remove(self.operations, change)
                gone = change["id"]
                for key in [k for k, o in self.operations.items() if o.beside_id == gone]:
                    self._remove(self.operations, {"id": key})
                for line in self.lines.values():
                    if line.operation_id == gone:
                        line.operation = None
                        self.changed.add(line.id)

    def _find_names(self, operations: list[dict], lines: list[dict]) -> None:
        numbers = {n.upper() for n in _texts(lines, "part")}
        found = Part.objects.annotate(any_case=Upper("number")).filter(any_case__in=numbers) if numbers else []
        # By the number in capital letters: whoever types it small means the same part.
        self.parts: dict[str, Part] = {p.number.upper(): p for p in found}
        self.parts |= {x.part.number.upper(): x.part for x in self.lines.values() if x.part}
        named = _texts(operations, "work_center")
        self.centers = {w.code: w for w in WorkCenter.objects.filter(code__in=named)} if named else {}
        self.centers |= {o.work_center.code: o.work_center for o in self.operations.values() if o.work_center}
        codes = _texts(operations, "standard")
        self.standards = {x.code: x for x in StandardOperation.objects.filter(code__in=codes)} if codes else {}
        self.standards |= {o.standard.code: o.standard for o in self.operations.values() if o.standard}
        self.options = {x.option.code: x.option for x in self.lines.values() if x.option}
        typed = _texts(lines, "option") - self.options.keys()
        self.options |= {o.code: o for o in Option.objects.filter(code__in=typed)} if typed else {}

    def _wrong(self, key: Any, field: str, message: str) -> None:
        self.problems.append(Problem(f"{key}.{field}", message))

    def _record(self, kind: type, values: dict, key: Any) -> Any:
        reader = RecordReader()
        # What the screen cleared is "nothing stated", and stands at its default.
        record = reader.record(kind, {n: None if v == "" else v for n, v in values.items()}, str(key), needed(kind))
        self.problems += reader.problems
        return None if reader.problems else record

    def _head(self, change: dict) -> None:
        values = {n: plain_value(getattr(self.sheet, n)) for n in HEAD} | {n: v for n, v in change["after"].items() if n in HEAD}
        record = self._record(core.Sheet, values | {"part": self.sheet.part.number}, "sheet")
        if record is not None:
            for name in HEAD:
                setattr(self.sheet, name, getattr(record, name))

    def _is_beside(self, change: dict) -> bool:
        row = self.operations.get(change["id"])
        return bool(row.beside_id if row else change["after"].get("beside"))

    def _resource(self, change: dict) -> None:
        """A row beside an operation: its work center and what of its own it takes there."""
        key, row = change["id"], self.operations.get(change["id"])
        values = (operation_values(row) if row else self._at_center(change["after"])) | change["after"]
        beside = str(row.beside_id) if row else values.get("beside")
        try:
            operation = self.operations[UUID(beside)]
        except (KeyError, ValueError, AttributeError, TypeError):
            operation = None
        if operation is None or operation.beside_id or values.get("beside") != beside:
            self._wrong(key, "beside", "the operation it works beside is not on this sheet")
            return
        stated = {n: v for n, v in values.items() if n in core.Resource.__dataclass_fields__}
        record = self._record(core.Resource, stated, key)
        if record is None:
            return
        step = operation_record(operation)
        for problem in check_resource(record, step):
            self._wrong(key, problem.place, problem.message)
        if record.work_center and record.work_center not in self.centers:
            self._wrong(key, "work_center", f"work center {record.work_center} is not known")
        if any(p.place.startswith(f"{key}.") for p in self.problems):
            return
        if row is None:
            taken = {o.resource for o in self.operations.values() if o.beside_id == operation.id}
            asked = values.get("resource")
            # One that comes back by an undo stands where it stood.
            free = isinstance(asked, int) and 0 < asked < 1000 and asked not in taken
            row = self.operations[key] = Operation(id=key, sheet=self.sheet, beside=operation)
            row.resource = asked if free else max(taken, default=0) + 1
            self.fresh.add(key)
        centers = {code: w.id for code, w in self.centers.items()}
        for name, value in resource_columns(record, step, row.resource, centers).items():
            setattr(row, name, value)
        row.work_center = self.centers[record.work_center]
        self.changed.add(key)

    def _follow_operations(self) -> None:
        """What works beside an operation stands where that stands, and fills its cycles."""
        for key, row in self.operations.items():
            operation = self.operations.get(row.beside_id) if row.beside_id else None
            if operation is None or operation.id not in self.changed:
                continue
            for problem in check_resource(resource_record(row), operation_record(operation)):
                self._wrong(key, problem.place, problem.message)
            if (row.sequence, row.cycle_quantity) != (operation.sequence, operation.cycle_quantity):
                row.sequence, row.cycle_quantity = operation.sequence, operation.cycle_quantity
                self.changed.add(key)

    def _operation(self, change: dict) -> None:
        key, row = change["id"], self.operations.get(change["id"])
        values = (operation_values(row) if row else self._at_center(change["after"])) | change["after"]
        files = values.pop("files", None) or []
        if any(values.pop(n, None) for n in ("beside", "resource")):
            self._wrong(key, "beside", "an operation works beside no other one")
            return
        record = self._record(core.Operation, values, key)
        if record is None:
            return
        for problem in check_operation(record):
            self._wrong(key, problem.place, problem.message)
        if record.work_center and record.work_center not in self.centers:
            self._wrong(key, "work_center", f"work center {record.work_center} is not known")
        if record.standard and record.standard not in self.standards:
            self._wrong(key, "standard", f"operation {record.standard} is not in the library")
        self._files(key, files)
        if any(p.place.startswith(f"{key}.") for p in self.problems):
            return
        if record.subcontract:
            outside = record.subcontract
            outside.supplier = partners_named([outside.supplier], "supplier", self.user).get(outside.supplier, "")
        columns = operation_columns(
            record, {code: w.id for code, w in self.centers.items()}, {code: x.id for code, x in self.standards.items()}
        )
        if row is None:
            row = self.operations[key] = Operation(id=key, sheet=self.sheet)
            self.fresh.add(key)
        for name, value in columns.items():
            setattr(row, name, value)
        row.work_center = self.centers[record.work_center] if record.work_center else None
        row.standard = self.standards[record.standard] if record.standard else None
        if "files" in change["after"]:
            self.shown[key] = files
        self.changed.add(key)

    def _at_center(self, after: dict) -> dict:
        """What a new operation has from its work center: its crew."""
        code = after.get("work_center")
        center = self.centers.get(code) if isinstance(code, str) else None
        return {"crew": plain_decimal(center.crew)} if center else {}

    def _files(self, key: Any, files: Any) -> None:
        wrong = wrong_files(files)
        if wrong:
            self._wrong(key, "files", wrong)

    def _line(self, change: dict) -> None:
        key, row = change["id"], self.lines.get(change["id"])
        if change["after"] is None:
            self._remove(self.lines, change)
            return
        values = (line_values(row) if row else {"position": 1e9}) | change["after"]
        position, operation = values.pop("position"), values.pop("operation", None)
        if not isinstance(position, int | float) or not abs(position) < 1e15:
            self._wrong(key, "position", "a place in the list is a number")
            return
        kind = values.pop("make", None)
        part = self._part(key, values.get("part"), kind)
        if values.get("part") and part is None:
            return
        values["part"] = part.number if part else None
        record = self._record(core.Line, values, key)
        if record is None:
            return
        for problem in check_line(record, part.unit if part else None, self.sheet.part.kind):
            self._wrong(key, problem.place, problem.message)
        try:
            at = self.operations[UUID(operation)] if operation else None
        except (KeyError, ValueError, AttributeError):
            self._wrong(key, "operation", "that operation is not on this sheet")
            return
        if at is not None and at.beside_id:
            self._wrong(key, "operation", "material is issued at the operation, not at what works beside it")
        if any(p.place.startswith(f"{key}.") for p in self.problems):
            return
        if record.option and record.option not in self.options:
            self.options[record.option] = Option.objects.create(code=record.option)
        if row is None:
            row = self.lines[key] = Line(id=key, sheet=self.sheet)
            self.fresh.add(key)
        self.components_changed |= row.part_id != (part.id if part else None) or row.not_fitted != record.not_fitted
        columns = line_columns(record, {p.number: p.id for p in self.parts.values()}, {c: o.id for c, o in self.options.items()})
        for name, value in columns.items():
            setattr(row, name, value)
        row.part, row.operation, row.position = part, at, float(position)
        row.option = self.options[record.option] if record.option else None
        self.components_changed |= bool(record.effective_from or record.effective_to)
        self.changed.add(key)

    def _part(self, key: Any, number: Any, kind: Any) -> Part | None:
        """The part of a number; one that is not known is made as a draft where the change says of which kind."""
        if not isinstance(number, str) or not number:
            return None
        part = self.parts.get(number.upper())
        if part is None and kind in ("bought", "made"):
            try:
                part = save_part(self.user, {"number": number, "kind": kind, "unit": "ea", "lifecycle": "draft"})
            except ProblemsError as error:
                for problem in error.problems:
                    self._wrong(key, "part", problem.message)
                return None
            self.parts[number.upper()] = part
            self.made.append(part.number)
        if part is None:
            self._wrong(key, "part", f"part {number} is not known")
        return part

    def _remove(self, rows: dict, change: dict) -> None:
        row = rows.pop(change["id"], None)
        if row is not None:
            self.removed.append(row)
            self.changed.discard(change["id"])

    def check(self) -> None:
        """The sheet as a whole, once every change lies on it."""
        if not self.problems:
            ids = [key for key, row in self.operations.items() if row.beside_id is None]
            lines = sorted(self.lines.values(), key=lambda x: (x.position, str(x.id)))
            record = sheet_record(self.sheet, lines, list(self.operations.values()))
            for problem in check_sheet(record, self.sheet.part.kind):
                place = problem.place
                if place.startswith("operations["):
                    index, field = place[len("operations[") :].split("].")
                    place = f"{ids[int(index)]}.{field}"
                elif not place.startswith("lines["):
                    place = f"sheet.{place}"
                self.problems.append(Problem(place, problem.message))
        if self.problems:
            raise ProblemsError(self.problems)

    def save(self, user: Any, reason: str) -> None:
        gone_operations = [r for r in self.removed if isinstance(r, Operation)]
        for row in self.removed:
            if isinstance(row, Line):
                row.delete()
        for model, rows in ((Operation, self.operations), (Line, self.lines)):
            fresh = [r for k, r in rows.items() if k in self.fresh]
            _give_lineage_back(model, fresh)
            changed = [r for k, r in rows.items() if k in self.changed and k not in self.fresh]
            names = [f.name for f in model._meta.concrete_fields if not f.primary_key]
            note = {"default_user": user, "default_change_reason": reason}
            if fresh:
                bulk_create_with_history(fresh, model, **note)
            if len(changed) <= _FEW:
                # One at a time is faster while they are few: putting a bulk update together takes longer than to run it.
                for row in changed:
                    row._history_user, row._change_reason = user, reason
                    row.save()
            else:
                bulk_update_with_history(changed, model, names, **note)
        if self.shown:
            kept = {self.operations[key]: files for key, files in self.shown.items() if key in self.operations}
            show_files(kept, user, reason)
        for row in sorted(gone_operations, key=lambda o: -o.resource):
            row.delete()


def _give_lineage_back(model: type[Line] | type[Operation], fresh: list) -> None:
    """A row that was taken away and comes back by an undo is the one it was."""
    held = dict(model.history.filter(id__in=[row.id for row in fresh]).values_list("id", "lineage")) if fresh else {}
    for row in fresh:
        row.lineage = held.get(row.id, row.lineage)
