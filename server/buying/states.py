"""What may be done with purchase orders, quotes, requests and price lists in the state they are in."""

from accounts.allowed import Allowed

__all__ = ["ORDER_ACTIONS", "PRICE_LIST_ACTIONS", "QUOTE_ACTIONS", "REQUEST_ACTIONS"]

ORDER_ACTIONS = Allowed(
    {
        "change": (("draft",), "is {state}; only a draft is changed"),
        "place": (("draft",), "is {state} already"),
        "receive": (("placed", "done"), "is {state}; goods come in on a placed order"),
        "close_line": (("placed",), "is {state}; only lines of a placed order are closed"),
        "cancel": (("draft", "placed"), "is {state} already"),
    }
)

QUOTE_ACTIONS = Allowed(
    {"change": (("draft",), "was {state} and stands as it is; make a new one"), "send": (("draft",), "was {state} already")}
)

REQUEST_ACTIONS = Allowed(
    {
        "send": (("draft",), "was {state} already"),
        "remind": (("sent",), "is {state}; only what was sent is reminded of"),
        "answer": (("sent", "answered"), "is {state}; an answer comes to what was sent"),
    }
)

PRICE_LIST_ACTIONS = Allowed(
    {
        "map": (("waiting",), "is {state} already"),
        "keep": (("waiting",), "is {state} already"),
        "let_go": (("waiting",), "is {state} already"),
    }
)
