"""What can be wrong with a definition, said in the user's words."""

from collections.abc import Sequence
from dataclasses import dataclass

__all__ = ["LoopError", "MissingError", "Problem", "ProblemsError", "TallyError", "UnitError"]


class TallyError(Exception):
    """A definition or a question that cannot be answered; the message is one clear line for the user."""


class MissingError(TallyError):
    """What was asked for is not there, or no longer."""


class UnitError(TallyError):
    """A unit that is not known, or two units that do not convert into one another."""


class LoopError(TallyError):
    """A part that contains itself.

    ``path`` holds the part numbers around the loop, the first one repeated at the end.

    >>> print(LoopError(["A", "B", "A"]))
    A contains itself: A → B → A
    """

    def __init__(self, path: Sequence[str]) -> None:
        self.path = list(path)
        super().__init__(f"{self.path[0]} contains itself: {' → '.join(self.path)}")


@dataclass(frozen=True, slots=True)
class Problem:
    """One thing wrong with one field. ``place`` says where it stands, ``message`` what would mend it."""

    place: str
    message: str

    def __str__(self) -> str:
        return f"{self.place}: {self.message}" if self.place else self.message


class ProblemsError(TallyError):
    """Several problems found together, so that all can be mended in one go."""

    def __init__(self, problems: Sequence[Problem]) -> None:
        self.problems = list(problems)
        super().__init__("\n".join(str(p) for p in problems))
