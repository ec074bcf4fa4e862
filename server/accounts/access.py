"""Who may do what: the groups, and the check that stands before every write."""

from django.conf import settings
from django.contrib.auth.models import AbstractUser, AnonymousUser, Group
from django.http import HttpRequest
from ninja.security import APIKeyCookie
from tally_core.basics.errors import Problem, ProblemsError, TallyError

from accounts.first_password import is_first
from accounts.lasting import signed_in
from accounts.second import is_wanting

__all__ = [
    "GROUPS",
    "HalfSignedIn",
    "READABLE",
    "Refused",
    "SeesPrices",
    "SignedIn",
    "make_groups",
    "refusal",
    "require",
    "required_version",
    "sees_costs",
    "sees_prices",
    "subjects",
    "writable",
]

#: What each group may write. Everyone who is signed in may read.
GROUPS: dict[str, set[str]] = {
    "engineer": {
        "parts",
        "partners",
        "work centers",
        "sheets",
        "inquiries",
        "handover",
        "hooks",
        "stock",
        "finished orders",
        "open orders",
        "rounds",
        "lists",
        "cutting",
        "work orders",
        "shop reports",
    },
    "accountant": {"hooks", "lists", "parts", "partners", "work centers", "open orders", "rounds", "standards", "work orders"},
    "buyer": {"lists", "parts", "partners", "inquiries", "buying", "stock", "open orders", "rounds"},
    "shop": {"lists", "cutting", "stock", "finished orders", "work orders", "shop reports"},
    "viewer": set(),
    "administrator": {"people"},
}


class Refused(TallyError):
    """The signed-in person may not do this."""


#: What a token may be given to read: a subject in words, and the addresses that it opens.
READABLE: dict[str, tuple[str, ...]] = {
    "parts": ("parts",),
    "build sheets": ("sheets", "lists", "drawings", "substitution"),
    "costs": ("costing", "questions"),
    "work centers": ("work-centers", "library", "finished-orders"),
    "partners": ("partners",),
    "inquiries": ("inquiries",),
    "findings": ("findings",),
    "rounds": ("rounds",),
    "handover": ("handover",),
    "cutting": ("cutting",),
    "work orders": ("shop",),
    "buying": ("buying", "orders", "quotes", "requests"),
}


class HalfSignedIn(APIKeyCookie):
    """A signed-in session that still lasts, also one that lacks the second factor it needs, or a password of one's own; writes carry the CSRF token."""

    def __init__(self) -> None:
        self.param_name = settings.SESSION_COOKIE_NAME
        super().__init__(csrf=True)

    def authenticate(self, request: HttpRequest, key: str | None) -> AbstractUser | None:
        return signed_in(request)


class SignedIn(HalfSignedIn):
    """A signed-in session with all that it needs; writes carry the CSRF token."""

    def authenticate(self, request: HttpRequest, key: str | None) -> AbstractUser | None:
        user = super().authenticate(request, key)
        if user is not None and is_first(request):
            raise Refused("The password you signed in with was given to you; choose one of your own first.")
        if user is not None and is_wanting(request):
            raise Refused("Here one signs in with a second factor, too; set yours up first.")
        return user


class SeesPrices(SignedIn):
    """A signed-in session of somebody who may see what suppliers ask."""

    def authenticate(self, request: HttpRequest, key: str | None) -> AbstractUser | None:
        user = super().authenticate(request, key)
        if user is not None and not sees_prices(user):
            raise Refused("What suppliers ask is not shown to you here; ask somebody who buys.")
        return user


def sees_prices(user: AbstractUser) -> bool:
    """Whether a person sees prices of suppliers: everybody, or (``PRICES_HIDDEN``, ``COSTS_HIDDEN``) only those who may change something."""
    return not (settings.PRICES_HIDDEN or settings.COSTS_HIDDEN) or bool(writable(user))


def sees_costs(user: AbstractUser | AnonymousUser) -> bool:
    """Whether a person sees what things cost: everybody, or (``COSTS_HIDDEN``) only those who may change something."""
    return not settings.COSTS_HIDDEN or bool(writable(user))


def make_groups(**_: object) -> None:
    """Make the groups that do not exist yet; runs after every migration."""
    for name in GROUPS:
        Group.objects.get_or_create(name=name)


def subjects() -> list[str]:
    """Every subject that some group may write."""
    return sorted(set().union(*GROUPS.values()))


def writable(user) -> set[str]:
    """The subjects that a user may write, by the groups the user is in."""
    if user is None or not user.is_active:
        return set()
    if user.is_superuser:
        return set(subjects())
    if not hasattr(user, "_writable"):
        names = user.groups.values_list("name", flat=True)
        user._writable = set().union(*(GROUPS.get(name, set()) for name in names))
    return user._writable


def refusal(user, subject: str) -> str | None:
    """Why ``user`` may not write ``subject`` (a word of GROUPS), in words; None for who may. The screen asks the same."""
    if subject in writable(user):
        return None
    roles = " or ".join(sorted(name for name, may in GROUPS.items() if subject in may))
    if subject == "people":
        return f"Who may sign in is for somebody who is {roles}."
    it = "it" if subject in ("buying", "cutting", "stock") else "them"
    if subject == "lists":
        return f"You may keep lists of your own but not for all; ask somebody who is {roles}."
    return f"You may look at {subject} but not change {it}; ask somebody who is {roles}."


def required_version(version: int | None) -> int:
    """The version that a change was made from. Raises ProblemsError where none is stated: it could undo another's change."""
    if version is None:
        raise ProblemsError([Problem("version", "say from which version this was made; read it again and repeat the change")])
    return version


def require(user, subject: str) -> None:
    """Raise Refused unless ``user`` may write ``subject``."""
    reason = refusal(user, subject)
    if reason is not None:
        raise Refused(f"{reason} Nothing was saved.")
