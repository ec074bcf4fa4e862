"""Cutting bars and boards: the fewest or cheapest of them for all pieces, with a bound (rules K2 and K3)."""
