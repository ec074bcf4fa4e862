"""That people go on working while the program is upgraded: migrations after the first of a room only add, and what takes away comes a version later.

Expanding first and contracting later is common practice for upgrades without a stop.
"""

import unittest

from definition.models.parts import Part
from django.contrib.postgres.operations import AddIndexConcurrently
from django.db import connection, migrations, models
from django.db.migrations.loader import MigrationLoader
from django.db.migrations.operations.base import Operation
from django.test import TestCase
from testing import Api

#: How a migration is called that takes away what the version before this one did without already.
AFTERWARDS = "_takes_away"
_ADDS = (migrations.CreateModel, migrations.AlterModelOptions, migrations.AlterModelManagers, migrations.RunPython, AddIndexConcurrently)


def stops(operation: Operation) -> str | None:
    """Why a program of the version before cannot go on, or nobody can write meanwhile, once an operation is done; none where they can."""
    if isinstance(operation, migrations.SeparateDatabaseAndState):
        return next(filter(None, map(stops, operation.database_operations)), None)
    if isinstance(operation, migrations.AddField):
        field = operation.field
        if field.null or field.db_default is not models.NOT_PROVIDED or isinstance(field, models.ManyToManyField):
            return None
        return f"{operation.describe()}: an older program writes rows without it; give it null or db_default"
    if isinstance(operation, _ADDS):
        return None
    return f"{operation.describe()}: an older program meets it, or everybody waits for its lock"


def of_ours(name: str) -> bool:
    from django.apps import apps

    return "site-packages" not in apps.get_app_config(name).path


class Upgrade(TestCase):
    def test_migrations_after_the_first_only_add(self) -> None:
        disk = MigrationLoader(None).disk_migrations
        ours = {key: m for key, m in disk.items() if of_ours(key[0])}
        self.assertGreater(len(ours), 10)
        wrong = [
            f"{app}.{name}: {why}"
            for (app, name), migration in sorted(ours.items())
            if not migration.initial and AFTERWARDS not in name
            for why in map(stops, migration.operations)
            if why
        ]
        self.assertEqual(wrong, [])

    def test_an_older_program_goes_on_beside_what_was_added(self) -> None:
        """The column stands there, and the program knows nothing of it: it reads, writes and copies its history."""
        with connection.cursor() as cursor:
            for table in ("definition_part", Part.history.model._meta.db_table):
                # As PostgreSQL is told of a field with db_default.
                cursor.execute(f"ALTER TABLE {table} ADD COLUMN added_later varchar(20) NOT NULL DEFAULT ''")
        api = Api("engineer")
        status, answer = api.post("/parts", {"number": "U-1", "kind": "bought", "unit": "ea"})
        self.assertEqual(status, 200, answer)
        status, answer = api.patch("/parts/one?number=U-1", {"description": "after it"})
        self.assertEqual((status, answer["description"]), (200, "after it"))
        with connection.cursor() as cursor:
            cursor.execute("SELECT added_later FROM definition_part WHERE number = 'U-1'")
            self.assertEqual(cursor.fetchone(), ("",))


class WhatStops(unittest.TestCase):
    def test_what_adds_and_what_takes_away(self) -> None:
        word = models.CharField(max_length=5)
        index = models.Index(fields=["number"], name="by_number")
        goes_on = [
            migrations.CreateModel("New", [("id", models.BigAutoField(primary_key=True))]),
            migrations.AddField("part", "later", models.CharField(max_length=5, null=True)),
            migrations.AddField("part", "later", models.CharField(max_length=5, db_default="")),
            migrations.AddField("part", "others", models.ManyToManyField("definition.Part")),
            migrations.RunPython(migrations.RunPython.noop),
            AddIndexConcurrently("part", index),
            migrations.SeparateDatabaseAndState(state_operations=[migrations.RemoveField("part", "unit")]),
        ]
        self.assertEqual([stops(operation) for operation in goes_on], [None] * len(goes_on))
        for operation in (
            migrations.AddField("part", "later", models.CharField(max_length=5, default="")),
            migrations.RemoveField("part", "unit"),
            migrations.RenameField("part", "unit", "stock_unit"),
            migrations.AlterField("part", "unit", word),
            migrations.DeleteModel("Part"),
            migrations.RunSQL("DROP TABLE definition_part"),
            migrations.AddIndex("part", index),
            migrations.SeparateDatabaseAndState(database_operations=[migrations.RemoveField("part", "unit")]),
        ):
            self.assertIsNotNone(stops(operation), operation.describe())
