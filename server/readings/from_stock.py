"""How many of a product can be built from what is on hand (rule W7)."""

from typing import Any

import numpy as np
from definition.models.parts import StockMove
from django.db.models import Sum
from loading.loaded import Loaded
from tally_core.cost.answers import Question, buildable_answer

__all__ = ["from_stock"]


def from_stock(loaded: Loaded, question: Question) -> dict[str, Any]:
    """The part, how many of it can be built, and what one more would lack. One query.

    Raises TallyError where no sheet says how to build it.
    """
    moves = StockMove.objects.filter(part__in=loaded.part_ids.tolist()).order_by()
    on_hand = dict(moves.values_list("part").annotate(total=Sum("quantity")))
    free = np.array([float(on_hand.get(key, 0)) for key in loaded.part_ids.tolist()])
    return buildable_answer(question, free)
