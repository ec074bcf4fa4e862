"""What may be done with a thing by the state it is in: asked by every action on one, and beforehand by its screen."""

from collections.abc import Mapping
from dataclasses import dataclass

from tally_core.basics.errors import Problem, ProblemsError

__all__ = ["Allowed"]


@dataclass(frozen=True, slots=True)
class Allowed:
    """The actions on one kind of thing.

    Attributes:
        actions: action → the states it needs, and what is said of a thing in another one; ``{state}`` stands for that.
    """

    actions: Mapping[str, tuple[tuple[str, ...], str]]

    def why_not(self, action: str, state: str, name: str) -> str | None:
        """Why an action cannot be done with a thing in a state, whoever asks; None where it can.

        >>> Allowed({"send": (("draft",), "is {state}, not a draft")}).why_not("send", "sent", "Q-1")
        'Q-1 is sent, not a draft'
        """
        states, words = self.actions[action]
        return None if state in states else f"{name} {words.format(state='a draft' if state == 'draft' else state)}"

    def require(self, action: str, state: str, name: str) -> None:
        """Raise ProblemsError where an action cannot be done."""
        if refusal := self.why_not(action, state, name):
            raise ProblemsError([Problem("", refusal)])

    def answers(self, state: str, name: str) -> dict[str, str | None]:
        """For every action why it cannot be done, null where it can."""
        return {action: self.why_not(action, state, name) for action in self.actions}
