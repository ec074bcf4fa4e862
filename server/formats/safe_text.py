"""Text from users on its way into files that other programs calculate with."""

__all__ = ["inert"]

_STARTS = ("=", "+", "-", "@", "\t", "\r", "\n")


def inert(text: str) -> str:
    """Text that no spreadsheet takes for a formula when it reads a CSV file: an apostrophe stands before it.

    >>> inert("=1+1"), inert("@SUM(A1)"), inert("HL-155")
    ("'=1+1", "'@SUM(A1)", 'HL-155')
    """
    return f"'{text}" if text.lstrip(" ").startswith(_STARTS) or text.startswith(_STARTS) else text
