"""Settings of ``./tally cost``, ``needs`` and ``buildable``: the apps whose models they read, and nothing of what serves; loading it is nearly all
that such a command takes."""

from tally_site.settings import *  # noqa: F403

# Every start configures what logs, and these commands log nothing.
LOGGING = {"version": 1, "disable_existing_loggers": False}
INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "simple_history",
    "files",
    "partners",
    "definition",
    "standards",
    "tally_site",
]
