"""Substitution: the generic materials and hardware of a design are exchanged for real stock, by a table."""
