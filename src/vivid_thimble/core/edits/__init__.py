"""Edits of a job that need to know more than its values: arranging, bridges, films, remedies, sizes that are
searched for.
"""
