"""Passwords that whoever knows this place would try first."""

import re

from django.core.exceptions import ValidationError

__all__ = ["WordsOfThePlace"]

#: What this program is about, in lower case without anything between.
_WORDS = ("roundtally", "tally", "buildsheet", "costing", "workcenter", "password", "engineer", "accountant", "administrator")


class WordsOfThePlace:
    """A validator: a password is more than words of this place with figures behind them."""

    def validate(self, password: str, user: object = None) -> None:
        """Raises ValidationError where less than six letters are left without such words."""
        letters = re.sub(r"[^a-z]", "", password.lower())
        left = re.sub("|".join(_WORDS), "", letters)
        if left != letters and len(left) < 6:
            raise ValidationError("This password is hardly more than words of this place; anybody here would guess it.")

    def get_help_text(self) -> str:
        return "A password is more than words of this place."
