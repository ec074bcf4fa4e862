"""What may be done with a purchase order in the state it is in."""

from accounts.allowed import Allowed

__all__ = ["ORDER_ACTIONS"]

ORDER_ACTIONS = Allowed(
    {
        "change": (("draft",), "is {state}; only a draft is changed"),
        "place": (("draft",), "is {state} already"),
        "receive": (("placed", "done"), "is {state}; goods come in on a placed order"),
        "close_line": (("placed",), "is {state}; only lines of a placed order are closed"),
        "cancel": (("draft", "placed"), "is {state} already"),
    }
)
