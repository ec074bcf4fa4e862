"""Say who we are: the name, address and mail that stand on papers which leave."""

from typing import Any

from definition.models.parts import Workspace
from django.core.exceptions import ValidationError
from django.core.validators import validate_email
from tally_core.basics.errors import Problem, ProblemsError

from verbs.contract import writing

__all__ = ["save_firm"]

_LENGTHS = {"firm": 200, "firm_address": 500, "firm_mail": 254}
_MOST_LINES = 6


def save_firm(user: Any, fields: dict[str, str]) -> Workspace:
    """Change what is given of ``firm``, ``firm_address`` (lines) and ``firm_mail``; papers that left stay as they were kept.

    Raises ProblemsError naming each that cannot be kept, and Refused.
    """
    with writing(user, "partners"):
        Workspace.objects.get_or_create(pk=1)
        workspace = Workspace.objects.select_for_update().get(pk=1)
        problems = []
        for name, most in _LENGTHS.items():
            if name not in fields:
                continue
            lines = [" ".join(line.split()) for line in fields[name].splitlines() if line.strip()]
            text = "\n".join(lines) if name == "firm_address" else " ".join(lines)
            if len(text) > most or not all(c.isprintable() or c == "\n" for c in text):
                problems.append(Problem(name, f"at most {most} characters that can be printed"))
            elif len(lines) > _MOST_LINES:
                problems.append(Problem(name, f"at most {_MOST_LINES} lines"))
            setattr(workspace, name, text)
        if workspace.firm_mail and not problems:
            try:
                validate_email(workspace.firm_mail)
            except ValidationError:
                problems.append(Problem("firm_mail", f"{workspace.firm_mail[:60]} is no address of mail"))
        if problems:
            raise ProblemsError(problems)
        workspace._history_user = user  # type: ignore[attr-defined]
        workspace.save()
        return workspace
