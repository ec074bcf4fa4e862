"""Indexes of what people search in are as they have to be for those who search."""

from django.apps import apps
from django.contrib.postgres.indexes import GinIndex
from django.db import connection
from django.test import TestCase


class Indexes(TestCase):
    def test_what_was_written_last_is_found_as_fast_as_the_rest(self) -> None:
        """As PostgreSQL's manual says of GIN: what waits to be put in is searched one by one, and more of it makes every search slower."""
        ours = {index.name for model in apps.get_models() for index in model._meta.indexes if isinstance(index, GinIndex)}
        self.assertGreater(len(ours), 2)
        with connection.cursor() as cursor:
            cursor.execute("SELECT relname FROM pg_class WHERE relname = ANY(%s) AND reloptions @> ARRAY['fastupdate=off']", [list(ours)])
            self.assertEqual({name for (name,) in cursor.fetchall()}, ours)
