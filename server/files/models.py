"""Files from outside, each content once."""

from django.db import models

__all__ = ["StoredFile"]


class StoredFile(models.Model):
    """A content that something names: a file of a part, a list that was brought in. It never changes; ``files.store`` keeps it."""

    # SHA-256 of the content, hexadecimal.
    digest = models.CharField(max_length=64, unique=True)
    size = models.IntegerField()
    # Found from the content, not from what the sender called it.
    content_type = models.CharField(max_length=100)
    content = models.FileField()
    kept_at = models.DateTimeField(auto_now_add=True)
