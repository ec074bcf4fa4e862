"""A cost or a markup given by hand, in words."""

__all__ = ["GIVEN_WORDS"]

#: SQL over the columns of a part: what is given and why, empty where nothing is. Written for statements with parameters.
GIVEN_WORDS = """CASE
    WHEN given_cost IS NOT NULL THEN concat_ws(': ', 'by hand', nullif(given_reason, ''))
    WHEN markup_percent IS NOT NULL THEN concat_ws(': ', trim_scale(markup_percent) || ' %% over the roll-up', nullif(given_reason, ''))
    ELSE '' END"""
