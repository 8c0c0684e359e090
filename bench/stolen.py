"""How much of the processor others on the same host took: with more than a few per cent no time means much."""

from __future__ import annotations

from pathlib import Path


class Stolen:
    """From its making to ``told``, by the counters of the kernel."""

    def __init__(self) -> None:
        self._began = _counters()

    def told(self) -> str:
        stolen, whole = (now - then for now, then in zip(_counters(), self._began, strict=True))
        return f"others took {100.0 * stolen / max(whole, 1):.1f} % of the processor meanwhile"


def _counters() -> tuple[int, int]:
    """Jiffies stolen and all jiffies."""
    fields = [int(field) for field in Path("/proc/stat").read_text().splitlines()[0].split()[1:9]]
    return fields[7], sum(fields)
