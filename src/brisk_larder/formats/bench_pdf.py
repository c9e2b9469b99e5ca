"""The sheet of an evening's tests: what is laid where, room for counts, a label to cut for each layer."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from ..core.base.errors import InvalidValue
from .labels_pdf import ListPage, begin_list
from .paper import Paper

LABEL_MM = (60.0, 30.0)


@dataclass(frozen=True)
class LayerLabel:
    """What the label of one layer says: the packet large, then small lines."""

    title: str
    lines: list[str]


def bench_pdf(sheet: ListPage, labels: Sequence[LayerLabel], page: str = "A4") -> bytes:
    """The list with its empty cells for counts, then the labels. Raises InvalidValue for no test."""
    if not sheet.rows:
        raise InvalidValue("tests", 0, "at least one test on that evening")
    paper = Paper(page, sheet.title)
    begin = begin_list(paper, sheet)
    scale = (paper.w - 28) / sum(sheet.widths_mm)
    widths = [w * scale for w in sheet.widths_mm]
    paper.ruled(begin(), widths, sheet.rows, head=sheet.head, new_page=begin)
    wide, high = LABEL_MM
    across, down = int((paper.w - 20) // wide), int((paper.h - 20) // high)
    left, top = (paper.w - across * wide) / 2, (paper.h - down * high) / 2
    for i, label in enumerate(labels):
        at = i % (across * down)
        if at == 0:
            paper.add_page()
        x, y = left + at % across * wide, top + at // across * high
        paper.set_draw_color(150)
        paper.set_line_width(0.1)
        paper.rect(x, y, wide, high)
        paper.set_text_color(0)
        paper.size(paper.largest(label.title, wide - 6, 13, 7), bold=True)
        below = paper.put(x + 3, y + 2.5, label.title, wide - 6)
        paper.size(8)
        for line in label.lines:
            below = paper.put(x + 3, below, line, wide - 6)
    return bytes(paper.output())
