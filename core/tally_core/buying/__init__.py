"""Buying: offers, what a need may be bought at, and the cheapest plan over all needs with its proof (rules B2 to B5)."""
