"""Takes a PDF page apart, by PDFium; only for a process with limits."""

from __future__ import annotations

import ctypes
import struct
from collections import Counter
from typing import Any

from vivid_thimble.core.formats.limits import MOST_SEGMENTS

DEEPEST_FORM = 12
LARGEST_NUMBER = 1e12
CAPS = ("butt", "round", "square")
JOINS = ("miter", "round", "bevel")
Matrix = tuple[float, float, float, float, float, float]


class Refused(Exception):
    """The file cannot be read; the argument says why in one word."""


def page_of(data: bytes, page_number: int) -> dict[str, Any]:
    """The painted paths of a page; raises Refused."""
    import pypdfium2.raw as pdf

    pdf.FPDF_InitLibrary()
    buffer = ctypes.create_string_buffer(data, len(data))
    document = pdf.FPDF_LoadMemDocument64(buffer, len(data), None)
    if not document:
        raise Refused("password" if pdf.FPDF_GetLastError() == pdf.FPDF_ERR_PASSWORD else "damaged")
    count = pdf.FPDF_GetPageCount(document)
    if not 0 <= page_number < count:
        raise Refused("page")
    page = pdf.FPDF_LoadPage(document, page_number)
    if not page:
        raise Refused("damaged")
    reader = _Page(pdf)
    for k in range(pdf.FPDFPage_CountObjects(page)):
        reader.take(pdf.FPDFPage_GetObject(page, k), (1.0, 0.0, 0.0, 1.0, 0.0, 0.0), 0, [])
    origin, size = _box(pdf, page)
    return {
        "pages": count,
        "origin": origin,
        "size": size,
        "objects": reader.objects,
        "strangers": dict(reader.strangers),
        "simplified": dict(reader.simplified),
    }


def _box(pdf: Any, page: Any) -> tuple[tuple[float, float], tuple[float, float]]:
    """Lower left corner and size of what a viewer shows."""
    edges = [ctypes.c_float() for _ in range(4)]
    for look in (pdf.FPDFPage_GetCropBox, pdf.FPDFPage_GetMediaBox):
        if look(page, *edges):
            left, bottom, right, top = (edge.value for edge in edges)
            if right > left and top > bottom:
                return (left, bottom), (right - left, top - bottom)
    return (0.0, 0.0), (float(pdf.FPDF_GetPageWidthF(page)), float(pdf.FPDF_GetPageHeightF(page)))


class _Page:
    def __init__(self, pdf: Any) -> None:
        self.pdf = pdf
        self.objects: list[dict[str, Any]] = []
        self.strangers: Counter[str] = Counter()
        self.simplified: Counter[str] = Counter()
        self.segments = 0

    def take(self, item: Any, outer: Matrix, depth: int, clips: list[bytes]) -> None:
        pdf = self.pdf
        kind = pdf.FPDFPageObj_GetType(item)
        if kind == pdf.FPDF_PAGEOBJ_PATH:
            self._path(item, outer, clips)
        elif kind == pdf.FPDF_PAGEOBJ_FORM and depth < DEEPEST_FORM:
            matrix = _then(self._matrix(item), outer)
            inner = [*clips, *self._clips(item, outer)]
            for k in range(pdf.FPDFFormObj_CountObjects(item)):
                self.take(pdf.FPDFFormObj_GetObject(item, k), matrix, depth + 1, inner)
        elif kind == pdf.FPDF_PAGEOBJ_TEXT:
            self.strangers["text (turn it into outlines where it was made)"] += 1
        elif kind == pdf.FPDF_PAGEOBJ_IMAGE:
            self.strangers["picture of pixels (to be traced)"] += 1
        elif kind == pdf.FPDF_PAGEOBJ_SHADING:
            self.strangers["shading"] += 1
        else:
            self.strangers["object of another kind"] += 1

    def _matrix(self, item: Any) -> Matrix:
        matrix = self.pdf.FS_MATRIX()
        if not self.pdf.FPDFPageObj_GetMatrix(item, matrix):
            return (1.0, 0.0, 0.0, 1.0, 0.0, 0.0)
        return (matrix.a, matrix.b, matrix.c, matrix.d, matrix.e, matrix.f)

    def _path(self, item: Any, outer: Matrix, clips: list[bytes]) -> None:
        pdf = self.pdf
        mode, stroked = ctypes.c_int(), ctypes.c_int()
        if not pdf.FPDFPath_GetDrawMode(item, mode, stroked):
            return
        fill = self._colour(pdf.FPDFPageObj_GetFillColor, item) if mode.value else None
        stroke = self._colour(pdf.FPDFPageObj_GetStrokeColor, item) if stroked.value else None
        if fill is None and stroke is None:
            return
        width = ctypes.c_float()
        pdf.FPDFPageObj_GetStrokeWidth(item, width)
        count = pdf.FPDFPath_CountSegments(item)
        raw = self._rows(count, lambda k: pdf.FPDFPath_GetPathSegment(item, k))
        dashes = self._dashes(item) if stroke is not None else []
        phase = ctypes.c_float()
        if dashes:
            pdf.FPDFPageObj_GetDashPhase(item, phase)
        self.objects.append(
            {
                "path": raw,
                "matrix": _then(self._matrix(item), outer),
                "fill": fill,
                "stroke": stroke,
                "evenodd": mode.value == pdf.FPDF_FILLMODE_ALTERNATE,
                "width": float(width.value),
                "cap": CAPS[pdf.FPDFPageObj_GetLineCap(item) % 3],
                "join": JOINS[pdf.FPDFPageObj_GetLineJoin(item) % 3],
                "miter_limit": 10.0,
                "dashes": dashes,
                "phase": float(phase.value),
                "clips": [*clips, *self._clips(item, outer)],
            }
        )

    def _colour(self, look: Any, item: Any) -> list[int] | None:
        """Red, green, blue and opacity; grey stands for a pattern or shading."""
        values = [ctypes.c_uint() for _ in range(4)]
        if not look(item, *values):
            self.simplified["pattern or shading (one colour by its outline)"] += 1
            return [128, 128, 128, 255]
        return [value.value for value in values] if values[3].value else None

    def _dashes(self, item: Any) -> list[float]:
        count = self.pdf.FPDFPageObj_GetDashCount(item)
        if not 0 < count < 1000:
            return []
        array = (ctypes.c_float * count)()
        self.pdf.FPDFPageObj_GetDashArray(item, array, count)
        return [float(value) for value in array]

    def _clips(self, item: Any, outer: Matrix) -> list[bytes]:
        pdf = self.pdf
        clip = pdf.FPDFPageObj_GetClipPath(item)
        found = []
        for k in range(pdf.FPDFClipPath_CountPaths(clip) if clip else 0):
            count = pdf.FPDFClipPath_CountPathSegments(clip, k)
            if count > 0:
                found.append(self._rows(count, lambda j, k=k: pdf.FPDFClipPath_GetPathSegment(clip, k, j), outer))
        return found

    def _rows(self, count: int, segment_at: Any, matrix: Matrix | None = None) -> bytes:
        """Rows of (kind, x1, y1, x2, y2, x3, y3) as doubles; see ``pdf_read.path_of``."""
        pdf = self.pdf
        self.segments += count
        if self.segments > MOST_SEGMENTS:
            raise Refused("many")
        x, y = ctypes.c_float(), ctypes.c_float()
        rows = bytearray()
        curve: list[float] = []
        for k in range(count):
            segment = segment_at(k)
            kind = pdf.FPDFPathSegment_GetType(segment)
            pdf.FPDFPathSegment_GetPoint(segment, x, y)
            at = _mapped(x.value, y.value, matrix)
            if not all(-LARGEST_NUMBER < v < LARGEST_NUMBER for v in at):
                raise Refused("damaged")
            if kind == pdf.FPDF_SEGMENT_BEZIERTO:
                curve += at
                if len(curve) == 6:
                    rows += struct.pack("7d", 2.0, *curve)
                    curve = []
            else:
                rows += struct.pack("7d", 0.0 if kind == pdf.FPDF_SEGMENT_MOVETO else 1.0, 0.0, 0.0, 0.0, 0.0, *at)
            if pdf.FPDFPathSegment_GetClose(segment):
                rows += struct.pack("7d", 3.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0)
        return bytes(rows)


def _mapped(x: float, y: float, matrix: Matrix | None) -> tuple[float, float]:
    if matrix is None:
        return x, y
    a, b, c, d, e, f = matrix
    return a * x + c * y + e, b * x + d * y + f


def _then(first: Matrix, after: Matrix) -> Matrix:
    a, b, c, d, e, f = first
    p, q, r, s, t, u = after
    return (p * a + r * b, q * a + s * b, p * c + r * d, q * c + s * d, p * e + r * f + t, q * e + s * f + u)
