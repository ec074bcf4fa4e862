"""Buying: on which terms suppliers sell, what they offered, rates of currencies, plans that cover what builds take, and orders."""

from .offers import Asked, Offer, PriceList, Rate, Terms
from .orders import OrderLine, PurchaseOrder, Quote, Receipt, Request, RequestLine
from .plans import BarredSupplier, BuyPlan, HeldChoice, PlanAlternate, PlanBuild, PlanNeed

__all__ = [
    "Asked",
    "BarredSupplier",
    "BuyPlan",
    "HeldChoice",
    "Offer",
    "OrderLine",
    "PlanAlternate",
    "PlanBuild",
    "PlanNeed",
    "PriceList",
    "PurchaseOrder",
    "Quote",
    "Rate",
    "Receipt",
    "Request",
    "RequestLine",
    "Terms",
]
