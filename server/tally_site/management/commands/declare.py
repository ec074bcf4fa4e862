"""``declare FILE``: what the core declares, as TypeScript, so that the screens share no list that is typed twice."""

import json
from pathlib import Path
from typing import Any

from accounts.access import subjects
from django.core.management.base import BaseCommand, CommandParser
from tally_core.basics.elements import ELEMENT, ELEMENTS
from tally_core.basics.facts import word_of
from tally_core.basics.kinds import FIELD_KINDS, GIVEN_AS, LIFECYCLES, LINE_KIND, LISTS, PART_KIND, ROLL_UPS, RUN_BASES, STATUSES
from tally_core.basics.units import SYMBOLS
from tally_core.cost.causes import CAUSES
from tally_core.structure.overlay import INPUTS

_HEAD = "// Made out of the core's declarations by ./tally; a change here is lost.\n"


def declared() -> dict[str, Any]:
    """Name → plain value, in the order in which they are shown."""
    return {
        "ELEMENTS": ELEMENTS,
        "ELEMENT_WORDS": {name: element.word for name, element in ELEMENT.items()},
        "ELEMENT_COLOURS": {name: element.colour for name, element in ELEMENT.items()},
        "CAUSES": CAUSES,
        "PART_KINDS": {
            name: {"takesSheet": kind.takes_sheet, "hasPrice": bool(kind.priced_as), "itself": kind.itself, "stocked": kind.stocked}
            for name, kind in PART_KIND.items()
        },
        "LINE_KINDS": {
            name: {"word": kind.word, "namesPart": kind.names_part, "givesBack": kind.gives_back} for name, kind in LINE_KIND.items()
        },
        "LIFECYCLES": LIFECYCLES,
        "STATUSES": STATUSES,
        "RUN_BASES": RUN_BASES,
        "GIVEN_AS": GIVEN_AS,
        "FIELD_KINDS": FIELD_KINDS,
        "ROLL_UPS": ROLL_UPS,
        "LISTS": LISTS,
        "UNITS": SYMBOLS,
        "SUBJECTS": subjects(),
        "INPUTS": {table: {name: word_of(name, facts) for name, facts in fields.items()} for table, fields in INPUTS.items()},
    }


class Command(BaseCommand):
    help = "Write what the core declares as TypeScript."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("file", type=Path)

    def handle(self, *args: Any, **options: Any) -> None:
        lines = (f"export const {name} = {json.dumps(value)} as const;\n" for name, value in declared().items())
        options["file"].write_text(_HEAD + "".join(lines))
