"""Sheets of labels as sold in any shop, by their sizes in millimetres; plain paper with cut lines."""

from __future__ import annotations

from dataclasses import dataclass

from ..core.base.errors import InvalidValue

PAGES_MM = {"A4": (210.0, 297.0), "Letter": (215.9, 279.4)}


@dataclass(frozen=True)
class Sheet:
    """A grid of labels on a page: columns, rows, size, margins and pitch in mm.

    ``cut``: plain paper, lines are printed to cut along; ``upright``: text runs along the long side.
    """

    key: str
    words: str
    page: str
    columns: int
    rows: int
    width_mm: float
    height_mm: float
    left_mm: float
    top_mm: float
    pitch_x_mm: float
    pitch_y_mm: float
    cut: bool = False
    upright: bool = False

    @property
    def places(self) -> int:
        """Labels on one page."""
        return self.columns * self.rows

    def at(self, index: int) -> tuple[float, float]:
        """Left and top edge of a place in mm; places run along the rows."""
        row, column = divmod(index % self.places, self.columns)
        return self.left_mm + column * self.pitch_x_mm, self.top_mm + row * self.pitch_y_mm


def _grid(
    key: str,
    words: str,
    page: str,
    columns: int,
    rows: int,
    width: float,
    height: float,
    gap_x: float = 0.0,
    gap_y: float = 0.0,
    *,
    cut: bool = False,
    upright: bool = False,
) -> Sheet:
    """A grid centred on its page."""
    page_w, page_h = PAGES_MM[page]
    left = (page_w - columns * width - (columns - 1) * gap_x) / 2
    top = (page_h - rows * height - (rows - 1) * gap_y) / 2
    return Sheet(
        key=key,
        words=words,
        page=page,
        columns=columns,
        rows=rows,
        width_mm=width,
        height_mm=height,
        left_mm=left,
        top_mm=top,
        pitch_x_mm=width + gap_x,
        pitch_y_mm=height + gap_y,
        cut=cut,
        upright=upright,
    )


SHEETS = {
    s.key: s
    for s in (
        _grid("a4-3x8", "A4, 24 labels of 70 x 37 mm", "A4", 3, 8, 70, 37),
        _grid("a4-3x7", "A4, 21 labels of 63.5 x 38.1 mm", "A4", 3, 7, 63.5, 38.1, 2.5),
        _grid("a4-2x7", "A4, 14 labels of 99.1 x 38.1 mm", "A4", 2, 7, 99.1, 38.1, 2.5),
        _grid("a4-4x10", "A4, 40 labels of 48.5 x 25.4 mm", "A4", 4, 10, 48.5, 25.4),
        _grid("a4-5x13", "A4, 65 labels of 38.1 x 21.2 mm", "A4", 5, 13, 38.1, 21.2, 2.5),
        _grid("letter-3x10", "Letter, 30 labels of 2 5/8 x 1 in", "Letter", 3, 10, 66.7, 25.4, 3.2),
        _grid("letter-2x5", "Letter, 10 labels of 4 x 2 in", "Letter", 2, 5, 101.6, 50.8, 4.8),
        _grid("a4-cut", "A4 plain paper, to cut", "A4", 3, 8, 62, 33, cut=True),
        _grid("letter-cut", "Letter plain paper, to cut", "Letter", 3, 7, 64, 33, cut=True),
        _grid("a4-strips", "A4 plain, narrow strips for jars and albums", "A4", 1, 20, 190, 13, cut=True),
        _grid("a4-stakes", "A4 plain, plant stakes", "A4", 9, 2, 21, 130, cut=True, upright=True),
    )
}  # fmt: skip


def sheet_of(key: str) -> Sheet:
    """A sheet by its key. Raises InvalidValue."""
    if key not in SHEETS:
        raise InvalidValue("sheet", key, ", ".join(SHEETS))
    return SHEETS[key]
