"""The sub-commands by name, known without what they need."""

from __future__ import annotations

COMMANDS = ("inspect", "letter", "audition", "clean", "trace", "spiral", "weld", "slice", "thicken", "stencil")
