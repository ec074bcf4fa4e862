"""Keeping a definition in step with another record of it: compared three ways, settled (rules H1 to H5)."""
