"""Inputs that a generator makes from the API's own document (schemathesis), as every role: each is answered, none ends in a failure of the server.

The number of inputs for each address is ``TALLY_GENERATED``; the suite sends a few of each, a long run some hundreds.
"""

import json
import logging
import os
import random
import traceback
import uuid
import warnings
from collections import Counter
from typing import Any
from urllib.parse import quote, urlencode

import schemathesis
from accounts.access import GROUPS
from demo.load_demo import load_demo
from django.apps import apps
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import transaction
from django.test import Client, TestCase
from hypothesis import HealthCheck, Phase, Verbosity, given, seed, settings
from schemathesis import GenerationMode
from testing import person

from tally_site.api import api

_EACH = int(os.environ.get("TALLY_GENERATED", "4"))
_SEED = int(os.environ.get("TALLY_GENERATED_SEED", "1"))
#: Half of what could be the key of a record is one that there is: else a generator would meet nothing but "there is no such".
_KNOWN = 0.5
#: Where there is no failure of ours: a service outside that is not there, an answer that takes turns.
_SAID = (502, 503)


class Generated(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        load_demo(orders=True)

    def setUp(self) -> None:
        self.pick = random.Random(_SEED)
        self.clients = {}
        for role in GROUPS:
            self.clients[role] = Client()
            self.clients[role].force_login(person(role))
        self.keys = {
            model.__name__.lower(): list(model.objects.values_list("pk", flat=True)[:50])
            for model in apps.get_models()
            if not model.__name__.startswith("Historical")
        }
        self.words = [
            str(value)
            for model, name in (("definition.Part", "number"), ("definition.WorkCenter", "code"), ("partners.Partner", "code"))
            for value in apps.get_model(model).objects.values_list(name, flat=True)[:80]
        ]

    def known(self, name: str, made: Any) -> Any:
        """In place of what was made for a field, now and then the key of a record that there is."""
        if self.pick.random() > _KNOWN:
            return made
        stem = name.removesuffix("_id").replace("_", "")
        if name == "version":
            return self.pick.randint(1, 4)
        if name.endswith("id") or isinstance(made, uuid.UUID):
            pool = [key for model, keys in self.keys.items() if stem in model for key in keys] or [1, 2, 3]
            return self.pick.choice(pool)
        if name in ("part", "number", "code", "center", "work_center", "supplier", "customer", "product"):
            return self.pick.choice(self.words)
        return made

    def laid(self, made: Any, name: str = "") -> Any:
        """What was made, with known keys in it, ready to be written as JSON."""
        if isinstance(made, dict):
            return {key: self.laid(value, key) for key, value in made.items()}
        if isinstance(made, list):
            return [self.laid(value, name) for value in made]
        value = self.known(name, made)
        return str(value) if isinstance(value, uuid.UUID) else value

    def send(self, case: Any, role: str) -> int:
        path = case.operation.full_path
        for name, made in (case.path_parameters or {}).items():
            path = path.replace("{" + name + "}", quote(str(self.known(name, made)), safe=""))
        query = urlencode(self.laid(case.query or {}), doseq=True, errors="replace")
        client, method = self.clients[role], case.method.upper()
        if case.media_type == "multipart/form-data":
            content = self.pick.choice([b"part;quantity\nHL-155;1\n", b"", b"\x00" * 40, b"ISO-10303-21;\n"])
            name = self.pick.choice(["list.csv", "a.xlsx", "b.step", "c.pdf", "d"])
            files = {field: SimpleUploadedFile(name, content) for field in ("file", "files")}
            return client.post(f"{path}?{query}", files).status_code
        body = b"" if case.body.__class__.__name__ == "NotSet" else json.dumps(self.laid(case.body), default=str).encode(errors="replace")
        return client.generic(method, f"{path}?{query}", body, case.media_type or "application/json").status_code

    def test_each_address_answers_what_is_made_for_it(self) -> None:
        warnings.simplefilter("ignore")
        logging.disable()
        self.addCleanup(logging.disable, logging.NOTSET)
        document = schemathesis.openapi.from_dict(api.get_openapi_schema(path_prefix="/api/"))
        answers: Counter[int] = Counter()
        failed: dict[str, str] = {}
        for result in document.get_all_operations():
            operation = result.ok()
            if (operation.method, operation.full_path) in (("delete", "/api/session"), ("post", "/api/session")):
                continue
            for mode in (GenerationMode.POSITIVE, GenerationMode.NEGATIVE):

                @seed(_SEED)
                @settings(
                    max_examples=max(_EACH // 2, 1),
                    database=None,
                    deadline=None,
                    verbosity=Verbosity.quiet,
                    phases=[Phase.generate],
                    suppress_health_check=list(HealthCheck),
                )
                @given(case=operation.as_strategy(generation_mode=mode))
                def each(case: Any) -> None:
                    role = self.pick.choice(sorted(GROUPS))
                    with transaction.atomic():
                        try:
                            status = self.send(case, role)
                        except Exception:
                            failed[f"{case.method.upper()} {case.operation.full_path} as {role}"] = traceback.format_exc(limit=-4)
                            status = 500
                        answers[status] += 1
                        if status >= 500 and status not in _SAID:
                            failed.setdefault(
                                f"{case.method.upper()} {case.operation.full_path} as {role}", f"{status}: {case.body!r}"[:600]
                            )
                        transaction.set_rollback(True)

                try:
                    each()
                except Exception as error:
                    if "Unsatisfiable" not in type(error).__name__:
                        failed[f"{operation.method} {operation.full_path} could not be made"] = repr(error)[:300]
        if os.environ.get("TALLY_GENERATED"):
            print(sum(answers.values()), dict(sorted(answers.items())))
        self.assertEqual(failed, {}, "\n\n".join(f"{name}\n{words}" for name, words in failed.items()))
        self.assertGreater(answers[200], 100)
