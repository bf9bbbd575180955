"""The schemas are those of the models, and no key of ours is lost on the way in."""

import re
import unittest

from grainet.exchange.json_file import OURS
from tools.schemas import FOLDER, MODELS, schema_text


class Schemas(unittest.TestCase):
    def test_the_shipped_schemas_are_those_of_the_models(self):
        for name in MODELS:
            self.assertEqual(
                (FOLDER / f"{name}.json").read_text(encoding="utf-8"), schema_text(name), f"{name}: run tools/schemas.py"
            )

    def test_our_own_keys_are_those_that_reading_keeps(self):
        """A key that begins with x- and is none of ours is dropped where a file is read."""
        written = {key for name in MODELS for key in re.findall(r'"(x-[a-z_]+)"', schema_text(name))}
        self.assertEqual(written, OURS)
