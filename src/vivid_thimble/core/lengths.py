"""Lengths as people type and read them: units, fractions and a little arithmetic.

``114mm``, ``11,5 cm``, ``4 1/2 in``, ``3 1/4"``, ``32in - 2*5in``, ``(10 + 4) / 2 cm``, ``80mm * pi``.
A bare number takes the unit it is read in. Sums mix units freely; a product needs one
plain factor, a quotient a plain divisor.
"""

from __future__ import annotations

import math
import re
from fractions import Fraction
from typing import Literal, NamedTuple

from vivid_thimble.core.errors import LengthNotUnderstood
from vivid_thimble.core.geometry.tolerances import LARGEST_LENGTH_MM
from vivid_thimble.core.ranges import bounds

Unit = Literal["mm", "cm", "in", "in/16"]
"""The units a person may work in; ``in/16`` shows inches as fractions."""

UNITS: tuple[Unit, ...] = ("mm", "cm", "in", "in/16")
MM_PER: dict[str, float] = {
    "mm": 1.0,
    "cm": 10.0,
    "m": 1000.0,
    "in": 25.4,
    '"': 25.4,
    "″": 25.4,
    "inch": 25.4,
    "inches": 25.4,
    "in/16": 25.4,
    "ft": 304.8,
    "'": 304.8,
    "′": 304.8,
    "pt": 25.4 / 72.0,
}
_TOKEN = re.compile(
    r"\s*(?:(?P<mixed>\d+\s+\d+\s*/\s*\d+)|(?P<number>\d+(?:[.,]\d*)?|[.,]\d+|[pP][iI]\b|π)"
    r"|(?P<unit>[a-zA-Z]+|[\"'″′])|(?P<op>[-+*/()−×]))"
)
_SAMPLE = "try something like 114mm, 11.5 cm or 4 1/2 in"


class _Quantity(NamedTuple):
    amount: float
    is_length: bool


def parse_length(text: str, unit: Unit = "mm") -> float:
    """Millimetres from typed text; raises LengthNotUnderstood with one clear sentence."""
    tokens = _tokens(text)
    if not tokens:
        raise LengthNotUnderstood(f"A length is missing: {_SAMPLE}.")
    reader = _Reader(text, tokens, unit)
    quantity = reader.total()
    if reader.rest():
        raise LengthNotUnderstood(f'"{text}" is not a length: {_SAMPLE}.')
    value = quantity.amount if quantity.is_length else quantity.amount * MM_PER[unit]
    if not math.isfinite(value) or abs(value) > LARGEST_LENGTH_MM:
        raise LengthNotUnderstood(f'"{text}" is longer than 100 m: check the unit.')
    return value


def parse_length_within(text: str, range_: object, what: str = "The length", unit: Unit = "mm") -> float:
    """As parse_length, but lengths outside a range (see ``ranges``) are refused too, by the name ``what``."""
    value = parse_length(text, unit)
    least, most = bounds(range_)
    if value <= 0.0 < least:
        raise LengthNotUnderstood(f'{what} must be more than zero, not "{text.strip()}".')
    if not least <= value <= most:
        low, high = (f"{mm / MM_PER[unit]:.4f}".rstrip("0").rstrip(".") + f" {fine_unit(unit)}" for mm in (least, most))
        raise LengthNotUnderstood(f'{what} must be from {low} to {high}, not "{text.strip()}".')
    return value


def fine_unit(unit: Unit) -> Unit:
    """The unit for widths of lines and gaps: sixteenths of an inch are too coarse for them."""
    return "in" if unit == "in/16" else unit


def format_length(value: float, unit: Unit = "mm", *, with_unit: bool = True) -> str:
    """A length for reading: 0.01 mm, 0.001 cm, 0.001 in, or the nearest sixteenth (with ~ if rounded)."""
    if unit == "in/16":
        text = _sixteenths(value)
        return f"{text} in" if with_unit else text
    places = {"mm": 2, "cm": 3, "in": 3}[unit]
    text = f"{value / MM_PER[unit]:.{places}f}".rstrip("0").rstrip(".")
    text = "0" if text in ("-0", "") else text
    return f"{text} {unit}" if with_unit else text


def _sixteenths(value: float) -> str:
    inches = value / 25.4
    nearest = Fraction(round(inches * 16), 16)
    sign = "-" if nearest < 0 else ""
    whole, part = divmod(abs(nearest), 1)
    shown = f"{whole}" if not part else f"{part}" if not whole else f"{whole} {part}"
    rounded = "" if abs(float(nearest) - inches) < 5e-4 else "~"
    return f"{rounded}{sign}{shown}"


def _tokens(text: str) -> list[tuple[str, str]]:
    tokens, at = [], 0
    stripped = text.rstrip()
    while at < len(stripped):
        match = _TOKEN.match(stripped, at)
        if match is None or match.end() == at:
            raise LengthNotUnderstood(f'"{text.strip()}" is not a length: {_SAMPLE}.')
        tokens.append((str(match.lastgroup), match.group(str(match.lastgroup))))
        at = match.end()
    return tokens


class _Reader:
    """Recursive descent over the tokens of one typed length."""

    def __init__(self, text: str, tokens: list[tuple[str, str]], unit: Unit) -> None:
        self._text, self._tokens, self._unit = text.strip(), tokens, unit
        self._depth = 0

    def rest(self) -> list[tuple[str, str]]:
        return self._tokens

    def total(self) -> _Quantity:
        value = self._product()
        while self._next_op("+-−"):
            sign = 1.0 if self._take() == "+" else -1.0
            other = self._product()
            if value.is_length != other.is_length:
                value, other = self._as_length(value), self._as_length(other)
            value = _Quantity(value.amount + sign * other.amount, value.is_length)
        return value

    def _product(self) -> _Quantity:
        value = self._factor()
        while self._next_op("*×/"):
            operator = self._take()
            other = self._factor()
            if operator == "/":
                value = self._divided(value, other)
            elif value.is_length and other.is_length:
                raise LengthNotUnderstood(f'"{self._text}" multiplies two lengths: one factor must be a plain number.')
            else:
                value = _Quantity(value.amount * other.amount, value.is_length or other.is_length)
        if self._tokens and self._tokens[0][0] == "unit" and not value.is_length:
            value = self._with_unit(value)
        return value

    def _divided(self, value: _Quantity, other: _Quantity) -> _Quantity:
        if other.amount == 0.0:
            raise LengthNotUnderstood(f'"{self._text}" divides by zero: give a divisor other than 0.')
        if other.is_length and not value.is_length:
            return _Quantity(value.amount * self._last_unit**2 / other.amount, True)
        return _Quantity(value.amount / other.amount, value.is_length and not other.is_length)

    _last_unit = 0.0

    def _factor(self) -> _Quantity:
        if self._next_op("+-−"):
            sign = 1.0 if self._take() == "+" else -1.0
            inner = self._factor()
            return _Quantity(sign * inner.amount, inner.is_length)
        if self._next_op("("):
            return self._bracket()
        if not self._tokens or self._tokens[0][0] not in ("number", "mixed"):
            raise LengthNotUnderstood(f'"{self._text}" is not a length: {_SAMPLE}.')
        kind, token = self._tokens.pop(0)
        value = _Quantity(_mixed(token) if kind == "mixed" else _number(token), False)
        return self._with_unit(value)

    def _bracket(self) -> _Quantity:
        self._take()
        self._depth += 1
        if self._depth > 40:
            raise LengthNotUnderstood(f'"{self._text[:30]}" has too many brackets: {_SAMPLE}.')
        inner = self.total()
        if not self._next_op(")"):
            raise LengthNotUnderstood(f'"{self._text}" has an open bracket: close it with ).')
        self._take()
        return self._with_unit(inner)

    def _with_unit(self, value: _Quantity) -> _Quantity:
        if not self._tokens or self._tokens[0][0] != "unit":
            return value
        name = self._tokens.pop(0)[1]
        scale = MM_PER.get(name.lower())
        if scale is None:
            raise LengthNotUnderstood(f'"{name}" is not a unit here: use mm, cm, m, in, ft or pt.')
        if value.is_length:
            raise LengthNotUnderstood(f'"{self._text}" gives a unit twice: {_SAMPLE}.')
        self._last_unit = scale
        value = _Quantity(value.amount * scale, True)
        return self._feet_then_inches(value, name)

    def _feet_then_inches(self, value: _Quantity, name: str) -> _Quantity:
        """5' 3 1/2" reads as one length."""
        if name in ("'", "ft", "′") and self._tokens and self._tokens[0][0] in ("number", "mixed"):
            return _Quantity(value.amount + self._as_length(self._factor()).amount, True)
        return value

    def _as_length(self, value: _Quantity) -> _Quantity:
        return value if value.is_length else _Quantity(value.amount * MM_PER[self._unit], True)

    def _next_op(self, among: str) -> bool:
        return bool(self._tokens) and self._tokens[0][0] == "op" and self._tokens[0][1] in among

    def _take(self) -> str:
        return self._tokens.pop(0)[1]


def _number(token: str) -> float:
    return math.pi if token.lower() in ("pi", "π") else float(token.replace(",", "."))


def _mixed(token: str) -> float:
    """ "4 1/2" as a number; a zero denominator is refused."""
    whole, fraction = token.split(None, 1)
    top, bottom = fraction.split("/")
    if int(bottom) == 0:
        raise LengthNotUnderstood(f'"{token}" divides by zero: give a fraction such as 4 1/2.')
    return int(whole) + int(top) / int(bottom)
