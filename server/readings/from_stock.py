"""How many of a product can be built from what is on hand and not spoken for (rule W7)."""

from typing import Any

import numpy as np
from definition.models.parts import StockMove
from definition.stock_levels import spoken_for
from django.db.models import Sum
from loading.loaded import Loaded
from tally_core.cost.answers import Question, buildable_answer

__all__ = ["from_stock"]


def from_stock(loaded: Loaded, question: Question) -> dict[str, Any]:
    """The part, how many of it can be built, and what one more would lack. A fixed number of queries.

    Raises TallyError where no sheet says how to build it.
    """
    keys = loaded.part_ids.tolist()
    moves = StockMove.objects.filter(part__in=keys).order_by()
    on_hand = dict(moves.values_list("part").annotate(total=Sum("quantity")))
    taken = spoken_for(keys)
    free = np.array([float(max(on_hand.get(key, 0) - taken.get(key, 0), 0)) for key in keys])
    return buildable_answer(question, free)
