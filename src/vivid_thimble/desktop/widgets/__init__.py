"""Widgets that several pages and dialogs use."""
