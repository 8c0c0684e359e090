"""The stations of the work path, a module each.

A station is a tray: it shows the job and its result and sends intentions through the session.
Adding one means a module here, an entry in ``stops`` and its standing.
"""
