"""The solver of linear and whole-number programs (HiGHS), without its words."""

import highspy

__all__ = ["Solver"]


class Solver(highspy.Highs):
    """Says nothing, not even at the start: the answer of a command stands alone on its output."""

    def enableCallbacks(self) -> None:
        self.silent()
        super().enableCallbacks()
