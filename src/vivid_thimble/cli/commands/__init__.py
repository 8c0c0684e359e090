"""One module a sub-command, by its name: ``HELP``, ``add_options(parser)`` and ``answer(options)``."""
