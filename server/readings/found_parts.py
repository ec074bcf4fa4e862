"""Parts by words: what every search for parts looks through."""

from definition.models.parts import Part
from django.contrib.postgres.fields import ArrayField
from django.db.models import F, Func, QuerySet, TextField, Value
from django.db.models.functions import Cast, Concat, Upper

from readings.part_list import money_fields

__all__ = ["found_parts", "looked_through"]

#: More words narrow nothing down any more.
_MOST_WORDS = 8


def found_parts(words: str, costs: bool) -> QuerySet[Part]:
    """Parts in whose number, description or own fields every word stands, whatever its case; all where there is none.

    Args:
        costs: as for :func:`looked_through`.
    """
    each = words.upper().replace("\x00", "").split()[:_MOST_WORDS]
    found, column = looked_through(Part.objects.all(), costs or not each)
    for word in each:
        # What is looked through without costs has no index: by the index first, there too.
        found = found.filter(**{f"{name}__contains": word for name in ("search", column)})
    return found


def looked_through(parts: QuerySet[Part], costs: bool) -> tuple[QuerySet[Part], str]:
    """Parts with the column in which their words stand, in capitals.

    Args:
        costs: whether who looks sees costs. Else own fields that tell them are left out, or a price would be found digit by digit.
    """
    kept = [] if costs else sorted(money_fields())
    if not kept:
        return parts, "search"
    own = Func(F("own_values"), Value(kept, ArrayField(TextField())), template="(%(expressions)s)", arg_joiner=" - ")
    told = Concat("number", Value(" "), "description", Value(" "), Cast(own, TextField()), output_field=TextField())
    return parts.annotate(told=Upper(told)), "told"
