"""A PDF page with the house's own letters, black on white, and QR codes drawn as squares."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import segno
from fpdf import FPDF

from ..core.base.errors import InvalidValue
from .sheets import PAGES_MM

FONTS = Path(__file__).parent / "fonts"
MM_PER_PT = 25.4 / 72


class Paper(FPDF):
    """A PDF in millimetres with the fonts that ship with the program."""

    def __init__(self, page: str, title: str) -> None:
        if page not in PAGES_MM:
            raise InvalidValue("page", page, " or ".join(PAGES_MM))
        super().__init__(unit="mm", format=page)
        self.add_font("text", "", FONTS / "text.ttf")
        self.add_font("text", "B", FONTS / "bold.ttf")
        self.set_title(title)
        self.set_creator("Brisk Larder")
        self.set_auto_page_break(False)
        self.set_margin(0)

    def size(self, points: float, *, bold: bool = False) -> None:
        """Letters of so many points."""
        self.set_font("text", "B" if bold else "", points)

    def line_mm(self) -> float:
        """Height of a line of the present letters."""
        return float(self.font_size_pt * MM_PER_PT * 1.16)

    def _within_reach(self, text: str, width_mm: float, lines: int = 1) -> str:
        """The start of a text that could fit at all: a long note is not measured to its end."""
        narrowest_mm = self.font_size_pt * MM_PER_PT * 0.15
        return text[: 16 + int(lines * max(width_mm, 1.0) / max(narrowest_mm, 0.05))]

    def fitted(self, text: str, width_mm: float) -> str:
        """A text cut to a width, with an ellipsis where something is missing."""
        near = self._within_reach(text, width_mm)
        if len(near) == len(text) and self.get_string_width(text) <= width_mm:
            return text
        low, high = 0, len(near)
        while low < high:  # the longest start that fits with its ellipsis
            middle = (low + high + 1) // 2
            fits = self.get_string_width(near[:middle] + "\u2026") <= width_mm
            low, high = (middle, high) if fits else (low, middle - 1)
        return near[:low].rstrip() + "\u2026"

    def wrapped(self, text: str, width_mm: float, most: int = 2) -> list[str]:
        """A text broken between words into lines of a width; the last one is cut where it must be."""
        lines: list[str] = []
        near = self._within_reach(text, width_mm, most + 1)
        for word in near.split():
            joined = f"{lines[-1]} {word}" if lines else word
            if lines and self.get_string_width(joined) <= width_mm:
                lines[-1] = joined
            elif len(lines) < most:
                lines.append(word)
            else:
                lines[-1] = joined
        return [self.fitted(line, width_mm) for line in lines]

    def put(self, x_mm: float, y_mm: float, text: str, width_mm: float) -> float:
        """One line of text at its top left; returns where the next line begins."""
        step = self.line_mm()
        self.text(x_mm, y_mm + step * 0.8, self.fitted(text, width_mm))
        return y_mm + step

    def largest(self, text: str, width_mm: float, most: float, least: float) -> float:
        """The largest size in points at which a text fits."""
        points = most
        text = self._within_reach(text, width_mm)
        while points > least:
            self.size(points, bold=True)
            if self.get_string_width(text) <= width_mm:
                return points
            points -= 0.5
        return least

    def qr(self, x_mm: float, y_mm: float, side_mm: float, content: str) -> None:
        """A QR code of a content, its quiet zone within the side."""
        code = segno.make(content, error="m", micro=False)
        modules = list(code.matrix)
        n = len(modules) + 4
        cell = side_mm / n
        self.set_fill_color(0)
        for r, row in enumerate(modules):
            begin = None
            for c, dark in enumerate([*row, 0]):
                if dark and begin is None:
                    begin = c
                elif not dark and begin is not None:
                    self.rect(
                        x_mm + (begin + 2) * cell,
                        y_mm + (r + 2) * cell,
                        (c - begin) * cell,
                        cell,
                        "F",
                    )
                    begin = None

    def ruled(
        self,
        top_mm: float,
        widths: list[float],
        rows: list[list[str]],
        *,
        head: list[str],
        new_page: Callable[[], float],
    ) -> float:
        """Rows under a head with hair lines, page after page; returns where it ended."""
        left, y = 14.0, top_mm

        def draw(cells: list[str], bold: bool, at: float) -> float:
            self.size(9.5 if not bold else 8.5, bold=bold)
            x = left
            for width, cell in zip(widths, cells, strict=True):
                self.put(x, at + 0.8, cell, width - 2)
                x += width
            self.set_draw_color(160)
            self.set_line_width(0.1)
            self.line(left, at + 6, left + sum(widths), at + 6)
            return at + 6

        y = draw(head, True, y)
        for row in rows:
            if y > self.h - 20:
                y = draw(head, True, new_page())
            y = draw(row, False, y)
        return y
