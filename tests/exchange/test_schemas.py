import unittest

from tools.schemas import FOLDER, MODELS, schema_text


class Schemas(unittest.TestCase):
    def test_the_shipped_schemas_are_those_of_the_models(self):
        for name in MODELS:
            self.assertEqual(
                (FOLDER / f"{name}.json").read_text(encoding="utf-8"), schema_text(name), f"{name}: run tools/schemas.py"
            )
