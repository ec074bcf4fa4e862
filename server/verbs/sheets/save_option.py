"""Name an option, and say which others cannot be chosen with it."""

from accounts.access import require
from definition.models.sheets import Option
from django.db import transaction
from tally_core.basics.errors import Problem, ProblemsError
from tally_core.stated.records import check_number

__all__ = ["save_option"]


def save_option(user, code: str, name: str, not_with: list[str]) -> Option:
    """Make an option or change one; what excludes it is stated on both.

    Raises ProblemsError for a code that cannot be one and for an exclusion of itself or of an unknown code, and Refused.
    """
    require(user, "sheets")
    problems = []
    wrong = check_number(code, "option code")
    if wrong:
        problems.append(Problem("code", wrong))
    if "\x00" in name:
        problems.append(Problem("name", "a name holds no null character"))
    if code in not_with:
        problems.append(Problem("not_with", f"{code} cannot exclude itself"))
    with transaction.atomic():
        held = {option.code: option for option in Option.objects.select_for_update().order_by("code")}
        problems += [Problem("not_with", f"option {other} is not known") for other in set(not_with) - held.keys() - {code}]
        if problems:
            raise ProblemsError(problems)
        option = held.get(code) or Option(code=code)
        wanted = sorted(set(not_with))
        if option.pk is None or (option.name, option.not_with) != (name.strip(), wanted):
            option.name, option.not_with = name.strip(), wanted
            option.save()
        for other in held.values():
            theirs = {*other.not_with} - {code} | ({code} if other.code in wanted else set())
            if other.code != code and sorted(theirs) != other.not_with:
                other.not_with = sorted(theirs)
                other.save()
        return option
