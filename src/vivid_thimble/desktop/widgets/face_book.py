"""Faces that the user marked as favourites, and those used last."""

from __future__ import annotations

from PySide6.QtCore import QSettings

MOST_RECENT = 8
FAVOURITES, RECENT = "faces/favourites", "faces/recent"


def favourite_faces() -> list[str]:
    """References, the first marked first."""
    return _list(FAVOURITES)


def recent_faces() -> list[str]:
    """References, the last used first."""
    return _list(RECENT)


def remember_face(face: str) -> None:
    """Put a face in front of the recently used ones."""
    others = [one for one in recent_faces() if one != face]
    QSettings().setValue(RECENT, [face, *others][:MOST_RECENT])


def toggle_favourite(face: str) -> bool:
    """Mark a face, or take the mark away; returns whether it is marked now."""
    marked = favourite_faces()
    is_marked = face not in marked
    QSettings().setValue(FAVOURITES, [*marked, face] if is_marked else [one for one in marked if one != face])
    return is_marked


def _list(key: str) -> list[str]:
    value = QSettings().value(key, [])
    if isinstance(value, str):  # a single entry comes back bare
        return [value] if value else []
    return [str(one) for one in value] if isinstance(value, list) else []
