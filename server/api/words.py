"""Fields of answers that take one of a few words, so that the front end's compiler knows them; what comes in is checked by the core."""

from typing import Annotated

from pydantic import WithJsonSchema
from tally_core.basics.kinds import FIELD_KINDS, LIFECYCLES, PART_KINDS, ROLL_UPS, STATUSES

__all__ = ["FieldKindWord", "LifecycleWord", "PartKindWord", "RollUpWord", "StatusWord"]

PartKindWord = Annotated[str, WithJsonSchema({"type": "string", "enum": list(PART_KINDS)})]
LifecycleWord = Annotated[str, WithJsonSchema({"type": "string", "enum": list(LIFECYCLES)})]
StatusWord = Annotated[str, WithJsonSchema({"type": "string", "enum": list(STATUSES)})]
RollUpWord = Annotated[str, WithJsonSchema({"type": "string", "enum": list(ROLL_UPS)})]
FieldKindWord = Annotated[str, WithJsonSchema({"type": "string", "enum": list(FIELD_KINDS)})]
