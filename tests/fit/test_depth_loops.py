"""The compiled loops: what they read against a slow method, a move that is never for the worse, and that nothing of theirs stands elsewhere."""

import ast
import inspect
import os
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path

import numpy as np
from shapely.geometry import Polygon

from grainet import compiled
from grainet.fit import depth_loops
from grainet.fit.depth_loops import PER_MM, STEP_MM, cost_at, find_depths
from grainet.fit.depths import Depths
from grainet.fit.no_fit import convex_pieces, no_fit
from grainet.plan.nesting import _Search
from tests.fit.depth_tables import table
from tests.jobs import half_ring
from tests.plan.test_nesting import hooks, nest_of


class OfTheirOwn(unittest.TestCase):
    def test_what_they_call_and_reckon_with_stands_in_their_file(self):
        """They are kept compiled until their own file changes."""
        tree = ast.parse(inspect.getsource(depth_loops))
        brought = {
            alias.asname or alias.name.partition(".")[0]
            for node in tree.body if isinstance(node, ast.Import | ast.ImportFrom) for alias in node.names
        }  # fmt: skip
        loops = [n for n in tree.body if isinstance(n, ast.FunctionDef)]
        self.assertTrue(all(any(getattr(d, "id", "") == "compiled" for d in loop.decorator_list) for loop in loops))
        for loop in loops:
            used = {n.id for statement in loop.body for n in ast.walk(statement) if isinstance(n, ast.Name)}
            self.assertLessEqual(used & brought, {"np", "math"}, loop.name)

    def test_where_nothing_may_be_written_they_are_compiled_all_the_same(self):
        with tempfile.TemporaryDirectory() as scratch:
            file = Path(scratch) / "one_loop.py"
            file.write_text("from grainet.compiled import compiled\n\n\n@compiled\ndef twice(x):\n    return 2 * x\n")
            (Path(scratch) / "__pycache__").touch()  # a file where the folder should be
            code = f"import sys; sys.path.insert(0, {scratch!r}); import one_loop; print(one_loop.twice(21))"
            env = {
                **os.environ,
                "HOME": "/nowhere/at/all",
                "XDG_CACHE_HOME": "/proc/nothing",
                "PYTHONPATH": str(Path(compiled.__file__).parent.parent),
            }
            env.pop("NUMBA_CACHE_DIR", None)
            found = subprocess.run([sys.executable, "-B", "-c", code], capture_output=True, text=True, env=env)
            self.assertEqual(found.stdout.strip(), "42", found.stderr)


class Reading(unittest.TestCase):
    def test_depths_between_nodes_are_those_of_a_slow_method(self):
        depths = Depths()
        pieces = convex_pieces(Polygon(half_ring()))
        reading = depths.add(no_fit(pieces, pieces, 3))
        r = np.random.default_rng(2)
        ways = (reading, reading.turned, reading.mirrored, reading.turned.mirrored)
        pair = np.array([[way] * 4 for way in ways])  # the first part's way of lying tells which table is read
        for _ in range(300):
            way, (x, y) = int(r.integers(4)), r.uniform(-300, 300, 2)
            depth, read = table(depths, ways[way]), ways[way]
            u, v = x / STEP_MM - read.column, y / STEP_MM - read.row
            wanted = 0.0
            if 0 <= u < read.wide - 1 and 0 <= v < read.high - 1:
                i, j = int(u), int(v)
                square, on, up = depth[j : j + 2, i : i + 2], u - i, v - j
                wanted = max(0.0, float(np.array([1 - up, up]) @ square @ np.array([1 - on, on])))
            lies = np.array([[10.0, 20.0, way], [10 + x, 20 + y, 0]])
            told = cost_at(depths.fine, pair, lies, np.full((2, 2), 3.0), 1, 0, 10 + x, 20 + y, 2, np.inf)
            self.assertAlmostEqual(told / PER_MM, 3 * wanted, places=6)


class Moving(unittest.TestCase):
    def test_a_move_is_never_for_the_worse_and_stays_where_the_board_allows(self):
        rot = {"id": "r", "kind": "rot", "face": "through", "polygon": [[250, 60], [290, 60], [290, 100], [250, 100]]}
        made = hooks(5, 640, 170, defects=[rot])
        nest = nest_of(made)
        search = _Search([nest.ways(made.parts[0])] * 5, nest.no_fits, np.random.default_rng(1))
        search.begin(())
        for _ in range(40):
            search._look()
            for k in range(5):
                before = float(search.depths[k] @ search.weights[k])
                search._move(k, 5)
                find_depths(search.depths, search.fine, search.pair, search.lies)
                self.assertLessEqual(
                    float(search.depths[k] @ search.weights[k]), before + 0.35, "each way round is read to a hair"
                )
                way, at = search.lying[k]
                self.assertTrue(way.allows(at[None, :])[0])
            search.weights = search.weights * np.random.default_rng(2).uniform(0.8, 1.3, search.weights.shape)


if __name__ == "__main__":
    unittest.main()
