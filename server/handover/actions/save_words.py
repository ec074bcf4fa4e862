"""Say which words of a system of record are which fields of ours, whose each field is, and what its words for values are."""

from collections.abc import Sequence
from dataclasses import fields as fields_of

from outside.records import FieldWord, Words
from tally_core.basics.errors import Problem, ProblemsError
from verbs.contract import writing

from handover.kept import words_kept
from handover.models import WordMap
from handover.wording import TABLES, crossing, service_named

__all__ = ["save_words"]

#: What a row cannot be matched without.
_NEEDED = {"lines": ("part",), "operations": ("sequence",)}
_NOT_FIELDS = {
    "parts": ("number", "own_values", "prices"),
    "sheets": ("part", "lines", "operations"),
    "lines": (),
    "operations": ("resources", "subcontract"),
}


def save_words(user, record: str, fields: Sequence[FieldWord], values: dict[str, dict[str, str]], version: int) -> WordMap:
    """Keep the words of a system of record.

    Args:
        values: by field, our word for a value and theirs.
        version: the version they were changed from, 0 where they were never edited.

    Raises ProblemsError with all that is wrong, MissingError, and Refused.
    """
    with writing(user, "handover"):
        service_named(record)
        words = Words([f for f in fields if f.theirs.strip()], values)
        problems = []
        for f in words.fields:
            if f.table not in TABLES or f.ours not in {x.name for x in fields_of(TABLES[f.table])} or f.ours in _NOT_FIELDS[f.table]:
                problems.append(Problem(f"{f.table}.{f.ours}", "this field does not cross"))
            if f.owner not in ("", "ours", "theirs"):
                problems.append(Problem(f"{f.table}.{f.ours}", "a field is ours, theirs, or of whoever moved it"))
        for table in TABLES:
            for word in {f.theirs for f in words.fields if f.table == table}:
                named = [f.ours for f in words.fields if f.table == table and f.theirs == word]
                if len(named) > 1:
                    problems.append(Problem(f"{table}.{named[1]}", f"their {word} is {named[0].replace('_', ' ')} already"))
            for name in _NEEDED.get(table, ()):
                if name not in crossing(words)[table]:
                    problems.append(Problem(f"{table}.{name}", "without it no row is known again"))
        for name, map_ in values.items():
            if len(set(map_.values())) < len(map_):
                problems.append(Problem(f"values.{name}", "two values of ours have the same word there"))
        kept = WordMap.objects.select_for_update().filter(record=record).first()
        if (kept.version if kept else 0) != version:
            problems = [Problem("", "the words were changed by somebody else meanwhile; look at them again")]
        if problems:
            raise ProblemsError(problems)
        kept = kept or WordMap(record=record, version=0)
        kept.words = words_kept(words)
        kept.version += 1
        kept._history_user = user
        kept.save()
        return kept
