"""The stations in the order people work, as the work path knows them: their trays are loaded when they are opened."""

from __future__ import annotations

STATIONS: dict[str, str] = {
    "measure": "Measure",
    "gather": "Gather",
    "shape": "Shape",
    "inspect": "Inspect",
    "cut": "Cut",
    "weed": "Weed & apply",
}
"""Titles by key; the tray of a station is the class ``KeyStation`` in the module ``key`` of this package."""
