"""Who we are, on papers that leave."""

from definition.models.parts import Workspace

__all__ = ["firm_lines", "signed"]


def firm_lines() -> list[str]:
    """Our name, address and mail, each in its line; none while nobody said who we are. One query."""
    w = Workspace.the()
    return [line for line in (w.firm, *w.firm_address.splitlines(), w.firm_mail) if line] if w.firm else []


def signed(words: str) -> str:
    """The words of a mail with who we are beneath them."""
    return "\n".join([words, "", *lines]) if (lines := firm_lines()) else words
