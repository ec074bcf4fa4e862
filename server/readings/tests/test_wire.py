"""That rows told in fewer words are the same rows, whatever stands in them."""

import math
import random
from typing import Any
from unittest import TestCase

import numpy as np
import orjson
from testing import rows_of

from readings.wire import LINE_FIGURES, figures_by_name, shortened, table

_KINDS: dict[str, Any] = {
    "one": lambda r, at: "ea",
    "nearly one": lambda r, at: "made" if at == 5 else "bought",
    "few": lambda r, at: r.choice(("", "kg", None)),
    "many": lambda r, at: r.random(),
    "growing": lambda r, at: 10 + 10 * at,
    "shrinking": lambda r, at: 3.0 - at,
    "growing but once": lambda r, at: at + (at == 40),
    "flags": lambda r, at: r.random() < 0.5,
    "lists": lambda r, at: [at] if r.random() < 0.1 else [],
    "nothing": lambda r, at: None,
    "nothing at first": lambda r, at: None if at < 60 else at,
}


class Shortened(TestCase):
    def test_the_rows_are_the_same(self) -> None:
        for seed in range(40):
            r = random.Random(seed)
            count = r.choice((0, 1, 2, 63, 64, 65, 200))
            columns = {name: [make(r, at) for at in range(count)] for name, make in _KINDS.items()}
            values = np.array([[r.choice((0.0, 1.5, math.nan, r.random()))] * 2 + [r.random(), *[0.5] * 9] for _ in range(count)])
            values = values.reshape(count, 12)
            if count and r.random() < 0.5:
                values[r.randrange(count), 1] = 9.25
            plain = table(columns, figures_by_name(values, LINE_FIGURES))
            short = orjson.loads(orjson.dumps(shortened(plain), option=orjson.OPT_SERIALIZE_NUMPY))
            wanted = orjson.loads(orjson.dumps(plain, option=orjson.OPT_SERIALIZE_NUMPY))
            self.assertEqual(rows_of(short), rows_of(wanted), seed)
            if count > 64:
                self.assertEqual(set(short["steps"]), {"growing", "shrinking"})
                self.assertLessEqual({"one", "nothing"}, set(short["same"]))
                self.assertLessEqual({"few", "flags"}, set(short["few"]))
                self.assertLessEqual({"many", "growing but once", "lists"}, set(short["each"]) | {"lists"} & set(short["but"]))
            if count == 200:
                self.assertEqual(short["but"]["gross"]["like"], "net")
