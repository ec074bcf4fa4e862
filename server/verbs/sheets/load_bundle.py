"""Load a bundle: parts, work centers and sheets are made or changed by their number, code or revision."""

from dataclasses import dataclass, field
from typing import Any

from definition.loops import refuse_loops
from definition.models.parts import Part, PartClass, Workspace
from definition.models.sheets import BuildSheet, Line, Operation, Option
from definition.models.work_centers import StandardOperation, WorkCenter
from definition.records import (
    class_columns,
    class_record,
    line_columns,
    operation_columns,
    part_columns,
    part_record,
    resource_columns,
    sheet_record,
    standard_columns,
    standard_record,
    work_center_columns,
    work_center_record,
)
from django.db import connection, transaction
from jobs.locks import LOADING
from partners.naming import partners_named
from simple_history.utils import bulk_create_with_history, bulk_update_with_history
from tally_core.basics.errors import Problem, ProblemsError
from tally_core.stated import definition as core
from tally_core.stated.bundle import read_bundle, write_bundle

from verbs.sheets._load_beside import count_stock, load_maker_numbers

__all__ = ["Loading", "load_bundle"]


@dataclass
class Loading:
    """What a load wrote, by subject."""

    made: dict[str, int] = field(default_factory=dict)
    changed: dict[str, int] = field(default_factory=dict)

    def __str__(self) -> str:
        def words(counts: dict[str, int]) -> str:
            return ", ".join(f"{n} {what}" for what, n in counts.items() if n) or "nothing"

        return f"made {words(self.made)}; changed {words(self.changed)}"


def load_bundle(document: Any, reason: str, user=None) -> Loading:
    """Write a parsed bundle, all of it or nothing.

    Raises ProblemsError with every problem, named by its place in the file, and LoopError with the path of a loop.
    """
    with transaction.atomic():
        # Two loads at once would both make what neither finds.
        with connection.cursor() as cursor:
            cursor.execute("SELECT pg_advisory_xact_lock(%s, 0)", [LOADING])
        definition = read_bundle(document, _known_parts, _known_centers, _known_classes, _known_standards)
        loading = Loading()
        _suppliers(definition, reason, user)
        _currency(definition)
        options = _options(definition)
        _classes(definition, loading, reason, user)
        centers = _upsert(
            WorkCenter, "code", work_center_record, work_center_columns, definition.work_centers, "work centers", loading, reason, user
        )
        standards = _standards(definition, centers, loading, reason, user)
        _refuse_unit_changes(definition)
        parts = _upsert(Part, "number", part_record, part_columns, definition.parts, "parts", loading, reason, user)
        makers = load_maker_numbers(definition.maker_numbers, parts, reason, user)
        loading.changed["lists of makers' numbers"] = makers
        _sheets(definition, parts, centers, options, standards, loading, reason, user)
        refuse_loops([parts[s.part] for s in definition.sheets if s.part in parts])
        # What is counted of a made part is worth what its sheet comes to.
        loading.changed["counts of stock"] = count_stock(definition.on_hand, parts, reason, user)
        return loading


def _suppliers(definition: core.Definition, reason: str, user: Any) -> None:
    """Whom parts and operations are bought from, under the names they have here; who is new is made."""
    operations = [o for s in definition.sheets for o in s.operations]
    operations += [x.operation for x in definition.standard_operations]
    naming: list[core.Part | core.Subcontract] = [*definition.parts, *(o.subcontract for o in operations if o.subcontract)]
    named = partners_named([n.supplier for n in naming], "supplier", user, reason)
    for record in naming:
        record.supplier = named.get(record.supplier, "")


def _known_parts(numbers: set[str]) -> dict[str, core.Part]:
    return {p.number: part_record(p) for p in Part.objects.filter(number__in=numbers)}


def _known_centers(codes: set[str]) -> set[str]:
    return set(WorkCenter.objects.filter(code__in=codes).values_list("code", flat=True))


def _known_classes(names: set[str]) -> dict[str, core.PartClass]:
    return {c.name: class_record(c) for c in PartClass.objects.filter(name__in=names)}


def _known_standards(codes: set[str]) -> set[str]:
    return set(StandardOperation.objects.filter(code__in=codes).values_list("code", flat=True))


def _standards(definition: core.Definition, centers: dict[str, int], loading: Loading, reason: str, user: Any) -> dict[str, int]:
    """Make or change entries of the library. Returns code → key of all."""
    held = {x.code.upper(): x for x in StandardOperation.objects.select_related("work_center")}
    made = changed = 0
    for record in definition.standard_operations:
        row = held.get(record.code.upper())
        if row is not None and standard_record(row) == record:
            continue
        made, changed = made + (row is None), changed + (row is not None)
        # An entry that is made keeps the version it is stated with: routings in the file name it.
        version = record.version if row is None else max(row.version + 1, record.version)
        row = row or StandardOperation()
        for name, value in standard_columns(record, centers).items():
            setattr(row, name, value)
        row.version = version
        row._history_user, row._change_reason = user, reason
        row.save()
    loading.made["library operations"], loading.changed["library operations"] = made, changed
    return dict(StandardOperation.objects.values_list("code", "id"))


def _classes(definition: core.Definition, loading: Loading, reason: str, user: Any) -> None:
    """Make or change classes. Parts that are not in the file keep their values, also of a field that is gone."""
    held = {c.name.upper(): c for c in PartClass.objects.all()}
    made = changed = 0
    for record in definition.part_classes:
        row = held.get(record.name.upper())
        if row is not None and class_record(row) == record:
            continue
        made, changed = made + (row is None), changed + (row is not None)
        row = row or PartClass(version=0)
        for name, value in class_columns(record).items():
            setattr(row, name, value)
        row.version += 1
        row._history_user, row._change_reason = user, reason
        row.save()
    loading.made["classes"], loading.changed["classes"] = made, changed


def _currency(definition: core.Definition) -> None:
    workspace = Workspace.the()
    if workspace.currency == definition.currency:
        return
    if Part.objects.exists():
        raise ProblemsError(
            [Problem("currency", f"costs here are in {workspace.currency}; a file in {definition.currency} cannot join them")]
        )
    workspace.currency = definition.currency
    workspace.save()


def _options(definition: core.Definition) -> dict[str, int]:
    excludes: dict[str, set[str]] = {}
    for code, others in definition.not_together.items():
        for other in others:
            excludes.setdefault(code, set()).add(other)
            excludes.setdefault(other, set()).add(code)
    for code, name in definition.options.items():
        option, _ = Option.objects.get_or_create(code=code, defaults={"name": name})
        others = sorted({*option.not_with, *excludes.get(code, ())})
        if (name and option.name != name) or option.not_with != others:
            option.name, option.not_with = name or option.name, others
            option.save()
    return dict(Option.objects.values_list("code", "id"))


def _upsert(
    model: Any, key: str, to_record: Any, to_columns: Any, records: list, word: str, loading: Loading, reason: str, user: Any
) -> dict[str, int]:
    """Make or change rows by their key. Returns key → id for every row of the model that the bundle may name."""
    held = {getattr(row, key).upper(): row for row in model.objects.filter(**{f"{key}__in": [getattr(r, key) for r in records]})}
    names = [n for n in core_fields(records) if n != key]
    fresh, changed = [], []
    for record in records:
        row = held.get(getattr(record, key).upper())
        if row is None:
            fresh.append(model(**to_columns(record)))
        elif to_record(row) != record:
            for name, value in to_columns(record).items():
                setattr(row, name, value)
            row.version += 1
            changed.append(row)
    taken = model.objects.annotate(any_case=_upper(key)).filter(any_case__in=[getattr(r, key).upper() for r in fresh])
    if taken:
        raise ProblemsError(
            [Problem(word, f"{getattr(row, key)} exists already in another spelling of small and capital letters") for row in taken]
        )
    bulk_create_with_history(fresh, model, batch_size=2000, default_user=user, default_change_reason=reason)
    if changed:
        bulk_update_with_history(changed, model, [*names, "version"], batch_size=2000, default_user=user, default_change_reason=reason)
    loading.made[word], loading.changed[word] = len(fresh), len(changed)
    return dict(model.objects.values_list(key, "id"))


def _upper(key: str):
    from django.db.models.functions import Upper

    return Upper(key)


def core_fields(records: list) -> list[str]:
    """The field names of a list of core records."""
    return list(records[0].__dataclass_fields__) if records else []


def _refuse_unit_changes(definition: core.Definition) -> None:
    """A stock unit that changes what it measures would make lines elsewhere meaningless."""
    from tally_core.basics.units import dimension

    problems = []
    held = dict(Line.objects.filter(part__number__in=[p.number for p in definition.parts]).values_list("part__number", "part__unit"))
    for index, part in enumerate(definition.parts):
        old = held.get(part.number)
        if old is not None and dimension(old) != dimension(part.unit):
            loaded_again = {(s.part, s.alternate, s.revision) for s in definition.sheets}
            users = Line.objects.filter(part__number=part.number).values_list("sheet__part__number", "sheet__alternate", "sheet__revision")
            left = sorted({f"{u[0]} {u[1]}/{u[2]}" for u in users if tuple(u) not in loaded_again})
            if left:
                problems.append(
                    Problem(
                        f"parts[{index}].unit",
                        f"{part.number} is used in {old} on {', '.join(left[:5])}; {part.unit} is {dimension(part.unit)}",
                    )
                )
    if problems:
        raise ProblemsError(problems)


def _sheets(
    definition: core.Definition,
    parts: dict[str, int],
    centers: dict[str, int],
    options: dict[str, int],
    standards: dict[str, int],
    loading: Loading,
    reason: str,
    user: Any,
) -> None:
    named = {s.part for s in definition.sheets}
    held = {
        (s.part.number, s.alternate, s.revision): s
        for s in BuildSheet.objects.filter(part__number__in=named)
        .select_related("part")
        .prefetch_related("lines__part", "lines__operation", "lines__option", "operations__work_center", "operations__standard")
    }
    lines: list[Line] = []
    operations: list[Operation] = []
    made = changed = 0
    heads: list[tuple[BuildSheet, core.Sheet]] = []
    fresh: list[BuildSheet] = []
    for record in definition.sheets:
        head = {n: getattr(record, n) for n in ("status", "effective_from", "effective_to", "batch", "reference")}
        sheet = held.get((record.part, record.alternate, record.revision))
        if sheet is None:
            sheet = BuildSheet(
                part_id=parts[record.part], alternate=record.alternate, revision=record.revision, changed_by=str(user or ""), **head
            )
            fresh.append(sheet)
            made += 1
        else:
            same = write_bundle(core.Definition(sheets=[record]))
            now = sheet_record(sheet, list(sheet.lines.all()), sorted(sheet.operations.all(), key=lambda o: o.sequence))
            record_sorted = core.Definition(sheets=[now])
            if write_bundle(record_sorted) == same:
                continue
            sheet.lines.all().delete()
            sheet.operations.all().delete()
            for name, value in head.items():
                setattr(sheet, name, value)
            sheet.version += 1
            sheet.changed_by = str(user or "")
            sheet._change_reason = reason
            sheet.save()
            changed += 1
        heads.append((sheet, record))
    bulk_create_with_history(fresh, BuildSheet, batch_size=2000, default_user=user, default_change_reason=reason)
    for sheet, record in heads:
        at: dict[int, Operation] = {}
        for step in record.operations:
            row = Operation(sheet=sheet, **operation_columns(step, centers, standards))
            at[step.sequence] = row
            operations.append(row)
            for nth, beside in enumerate(step.resources, 1):
                columns = resource_columns(beside, step, nth, centers)
                operations.append(Operation(sheet=sheet, beside=row, **columns))
        for position, line in enumerate(record.lines, 1):
            lines.append(
                Line(
                    sheet=sheet,
                    position=position,
                    operation=at[line.issue_at] if line.issue_at is not None else None,
                    **line_columns(line, parts, options),
                )
            )
    bulk_create_with_history(operations, Operation, batch_size=2000, default_user=user, default_change_reason=reason)
    bulk_create_with_history(lines, Line, batch_size=2000, default_user=user, default_change_reason=reason)
    loading.made["sheets"], loading.changed["sheets"] = made, changed
