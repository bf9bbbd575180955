"""Grainet logs, grades and plans the cutting of odd wood for guitar builders."""

__version__ = "0.1.0"
