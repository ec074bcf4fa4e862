"""Lists made elsewhere, on their way in."""

from django.conf import settings
from django.db import models
from files.models import StoredFile
from formats.cells import rows_of_json
from tally_core.lists.cells import Cell

__all__ = ["Intake"]


class Intake(models.Model):
    """One brought-in file, from upload to saved sheets.

    ``grid`` holds the cells of every table, each in its own type, once the worker has read the file.
    """

    name = models.TextField()
    file = models.ForeignKey(StoredFile, on_delete=models.PROTECT, related_name="+")
    # While it is unread, its job says what it waits for or why it could not be read.
    state = models.CharField(max_length=8, default="unread")  # unread | read | saved
    grid = models.JSONField(default=list)
    made_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT)
    made_at = models.DateTimeField(auto_now_add=True)

    def rows(self, table: int) -> list[list[Cell]]:
        """The rows of one of its tables."""
        return rows_of_json(self.grid[table]["rows"])
