"""Errors that a person can act on, named by their meaning.

Every message is one sentence: what is wrong, where, and what to do about it.
A programmer's mistake is a ValueError or TypeError and never one of these.
"""

from __future__ import annotations

from vivid_thimble.core.messages import Message


class ThimbleError(Exception):
    """Root of everything that is refused or fails for a reason a person can mend: a message, or a sentence."""

    @property
    def message(self) -> Message:
        told = self.args[0] if self.args else ""
        return told if isinstance(told, Message) else Message.of("{sentence}", sentence=str(told))


class InputRefused(ThimbleError):
    """Something that came in (a number, a file, a font) cannot be used."""


class LengthNotUnderstood(InputRefused):
    """A typed length could not be read."""


class NumberAbsurd(InputRefused):
    """A number lies outside of what can be made."""


class DrawingNotReadable(InputRefused):
    """A drawing file is empty, broken or of another kind."""


class PictureNotReadable(InputRefused):
    """A picture of pixels is empty, broken, too large or of another kind."""


class FontNotUsable(InputRefused):
    """A font is missing, broken or has no outlines for what was asked."""


class NothingToDraw(InputRefused):
    """A source is well formed but yields no shape."""


class ProjectNotReadable(InputRefused):
    """A project file is damaged or was written by a newer version."""


class DoesNotFitCarrier(ThimbleError):
    """The sheet is larger than what the carrier can cut."""
