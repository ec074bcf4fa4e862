"""Keeping a definition in step with another record of it: compared three ways (rules H1 to H4)."""
