"""Dialogs, each by itself."""
