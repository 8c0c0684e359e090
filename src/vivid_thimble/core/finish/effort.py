"""How long weeding takes: seconds with named weights, so that the estimate explains itself.

The weights are ours to start from; a log of real jobs is to replace them.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

SPREAD = 0.4
"""Hands and films differ: the honest range is this share around the sum."""


@dataclass(frozen=True)
class Weights:
    """Seconds for each thing that takes time."""

    start: float = 60.0
    pick: float = 6.0
    tiny_pick: float = 12.0
    metre_of_outline: float = 20.0
    waste_neck: float = 5.0
    thin_line: float = 6.0
    small_piece: float = 10.0
    sharp_tip: float = 1.5


@dataclass(frozen=True)
class Share:
    """One line of the estimate."""

    what: str
    count: float
    seconds: float


@dataclass(frozen=True)
class Effort:
    """The estimate in seconds, largest share first."""

    shares: tuple[Share, ...]

    @classmethod
    def together(cls, efforts: Iterable[Effort]) -> Effort:
        """Of several films, one after the other."""
        counts: dict[str, float] = {}
        seconds: dict[str, float] = {}
        for share in (share for effort in efforts for share in effort.shares):
            counts[share.what] = counts.get(share.what, 0.0) + share.count
            seconds[share.what] = seconds.get(share.what, 0.0) + share.seconds
        shares = [Share(what, counts[what], seconds[what]) for what in seconds]
        return cls(tuple(sorted(shares, key=lambda share: -share.seconds)))

    @property
    def seconds(self) -> float:
        return sum(share.seconds for share in self.shares)

    @property
    def minutes(self) -> tuple[int, int]:
        """A range that most people should fall into; at least one minute wide."""
        low = max(int(self.seconds * (1 - SPREAD) / 60.0), 1)
        return low, max(round(self.seconds * (1 + SPREAD) / 60.0), low + 1)

    def in_words(self) -> str:
        """The range and what it is mostly made of."""
        low, high = self.minutes
        most = " and ".join(f"{_count(share.count)} {share.what}" for share in self.shares[:2])
        return f"About {low} to {high} minutes: mostly {most}."


def effort_of(
    *, picks: int, tiny: int, outline_mm: float, necks: int, thin_lines: int, small_pieces: int, tips: int,
    weights: Weights = Weights(),
) -> Effort:  # fmt: skip
    """Counts times weights; lines without a count are left out."""
    counted = (
        ("picks", picks, weights.pick),
        ("tiny picks with the hook", tiny, weights.tiny_pick),
        ("metres of outline to lift along", outline_mm / 1000.0, weights.metre_of_outline),
        ("narrow necks in the waste", necks, weights.waste_neck),
        ("thin lines to go gently by", thin_lines, weights.thin_line),
        ("small pieces to hold down", small_pieces, weights.small_piece),
        ("pointed tips of waste", tips, weights.sharp_tip),
    )
    shares = [Share(what, count, count * seconds) for what, count, seconds in counted if count > 0]
    shares.sort(key=lambda share: -share.seconds)
    return Effort((*shares, Share("start: trim and find a corner", 1, weights.start)))


def _count(number: float) -> str:
    return f"{number:g}" if float(number).is_integer() else f"{number:.1f}"
