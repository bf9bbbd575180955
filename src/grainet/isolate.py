"""Keeps modules of the folder that a command is run in out of the program: imported first by everything that can be run by ``-m``."""

from __future__ import annotations

import os
import sys


def leave_the_working_folder() -> None:
    """Take the working folder off the search path, however it is written there: a file named argparse.py in it must not run."""
    try:
        here = os.path.realpath(os.getcwd())
    except OSError:  # the folder was deleted under the command
        here = ""
    own = os.path.realpath(os.path.dirname(os.path.dirname(os.path.abspath(__file__))))
    sys.path[:] = [p for p in sys.path if p and (os.path.realpath(p) != here or os.path.realpath(p) == own)]
