"""Depth tables written out, to be compared with what a slow method finds."""

import numpy as np

from grainet.fit.depth_loops import PER_MM
from grainet.fit.depths import Depths, Reading


def table(depths: Depths, read: Reading):
    """The depths of a table as they are read, mm: (rows, columns)."""
    rows, columns = np.arange(read.high)[:, None], np.arange(read.wide)
    return depths.fine[read.begin + rows * read.across + columns * read.along] / PER_MM


def coarse_table(depths: Depths, read: Reading):
    """Every so-many-th of them, 0 outside."""
    rows, columns = np.arange(read.coarse_high)[:, None], np.arange(read.coarse_wide)
    return depths.coarse[read.coarse_begin + rows * read.coarse_across + columns * read.coarse_along] / PER_MM
