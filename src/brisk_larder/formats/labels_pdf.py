"""Labels for packets, jars and stakes; lists for containers and cards for drawers. All PDF, all black."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from ..core.base.errors import InvalidValue
from .paper import Paper
from .sheets import PAGES_MM, Sheet


@dataclass(frozen=True)
class Label:
    """What one label says. Empty lines are left out; ``caution`` stands in a black bar."""

    code: str
    name: str
    kind: str
    origin: str
    source: str
    germination: str
    use: str
    sealed: str = ""
    caution: str = ""
    address: str = ""

    @property
    def lines(self) -> list[str]:
        """The small lines in the order of their worth, where room runs out the last go first."""
        return [x for x in (self.origin, self.germination, self.use, self.sealed, self.source) if x]


@dataclass(frozen=True)
class ListPage:
    """One container's list: title, what it is, its range of codes, and rows of cells."""

    title: str
    under: str
    codes: str
    head: list[str]
    widths_mm: list[float]
    rows: list[list[str]]
    address: str = ""


def labels_pdf(labels: Sequence[Label], sheet: Sheet, start: int = 1) -> bytes:
    """Labels on sheets, beginning at a place (from 1) of a part-used first sheet.

    Raises InvalidValue for no label, or a start outside the sheet.
    """
    if not labels:
        raise InvalidValue("labels", 0, "at least one")
    if not 1 <= start <= sheet.places:
        raise InvalidValue("start at", start, f"1 to {sheet.places}")
    paper = Paper(sheet.page, "Seed labels")
    for i, label in enumerate(labels, start=start - 1):
        if i % sheet.places == 0 or paper.page_no() == 0:
            paper.add_page()
        x, y = sheet.at(i)
        if sheet.cut:
            paper.set_draw_color(150)
            paper.set_line_width(0.1)
            paper.set_dash_pattern(dash=1, gap=1)
            paper.rect(x, y, sheet.width_mm, sheet.height_mm)
            paper.set_dash_pattern()
        if sheet.upright:
            _stake(paper, label, x, y, sheet)
        elif sheet.height_mm < 16:
            _strip(paper, label, x, y, sheet)
        else:
            _block(paper, label, x, y, sheet.width_mm, sheet.height_mm)
    return bytes(paper.output())


def _bar(paper: Paper, x: float, y: float, width: float, text: str, points: float) -> None:
    paper.size(points, bold=True)
    paper.set_fill_color(0)
    paper.rect(x, y, width, paper.line_mm() + 0.6, "F")
    paper.set_text_color(255)
    paper.put(x + 1, y + 0.3, text, width - 2)
    paper.set_text_color(0)


def _block(paper: Paper, label: Label, x: float, y: float, width: float, height: float) -> None:
    """A label of the usual shape: code and QR on the right, the name as large as it fits."""
    pad = 2.2 if width > 45 else 1.4
    side = min(height * 0.5, width * 0.27)
    text_w = width - side - 3 * pad
    bar = 3.6 if label.caution else 0.0
    paper.set_text_color(0)
    points = paper.largest(label.name, text_w, 15 if height > 30 else 11, 7)
    paper.size(points, bold=True)
    at = paper.put(x + pad, y + pad, label.name, text_w)
    small = 8.0 if height > 30 else 6.4
    paper.size(small)
    at = paper.put(x + pad, at, label.kind, text_w)
    for text in label.lines:
        below = at > y + pad + side + 5.5  # under the code the whole width is free
        room = width - 2 * pad if below else text_w
        for line in paper.wrapped(text, room):
            if at + paper.line_mm() > y + height - pad * 0.6 - bar:
                break
            at = paper.put(x + pad, at, line, room)
    paper.qr(x + width - side - pad * 0.6, y + pad * 0.6, side, label.address)
    size = paper.largest(label.code, side, 13 if height > 30 else 10, 6)
    paper.size(size, bold=True)
    wide = paper.get_string_width(label.code)
    paper.put(x + width - pad * 0.6 - side / 2 - wide / 2, y + side + pad * 0.5, label.code, side)
    if label.caution:
        _bar(paper, x + pad, y + height - bar - 0.8, width - 2 * pad, label.caution, 6.6)


def _strip(paper: Paper, label: Label, x: float, y: float, sheet: Sheet) -> None:
    """A narrow strip: code, name, and everything else in one line under it."""
    height, width = sheet.height_mm, sheet.width_mm
    paper.set_text_color(0)
    paper.qr(x + 0.6, y + 0.6, height - 1.2, label.address)
    left = x + height + 1
    paper.size(12, bold=True)
    paper.put(left, y + 1, label.code, 24)
    paper.put(left + 26, y + 1, label.name, width - height - 30)
    paper.size(7.5)
    caution = [label.caution.upper()] if label.caution else []
    paper.put(
        left, y + 7.4, "  \u00b7  ".join([*caution, label.kind, *label.lines]), width - height - 4
    )


def _stake(paper: Paper, label: Label, x: float, y: float, sheet: Sheet) -> None:
    """A plant stake, read with the head to the left: text runs along it, the foot stays empty."""
    paper.set_text_color(0)
    with paper.rotation(90, x, y + sheet.height_mm):
        left, top = x + 30, y + sheet.height_mm
        length = sheet.height_mm - 32
        side = sheet.width_mm - 4
        paper.qr(left + length - side, top + 2, side, label.address)
        points = paper.largest(label.name, length - side - 4, 20, 9)
        paper.size(points, bold=True)
        at = paper.put(left, top + 2, label.name, length - side - 4)
        paper.size(9)
        at = paper.put(left, at, f"{label.code}  \u00b7  {label.kind}", length - side - 4)
        paper.size(7)
        paper.put(
            left,
            at,
            "  \u00b7  ".join([label.origin, label.caution]).rstrip(" \u00b7"),
            length - side - 4,
        )


def begin_list(paper: Paper, one: ListPage) -> Callable[[], float]:
    """Begins a page of a list with its head; returns where its rows begin (mm)."""

    def begin() -> float:
        paper.add_page()
        paper.set_text_color(0)
        paper.size(18, bold=True)
        y = paper.put(14, 14, one.title, paper.w - 60)
        paper.size(10)
        y = paper.put(14, y, one.under, paper.w - 60)
        y = paper.put(14, y, one.codes, paper.w - 60)
        if one.address:
            paper.qr(paper.w - 38, 11, 24, one.address)
        return max(y + 4, 40)

    return begin


def lists_pdf(pages: Sequence[ListPage], page: str = "A4") -> bytes:
    """Container lists, one after the other, each on its own page(s). Raises InvalidValue for none."""
    if not pages:
        raise InvalidValue("lists", 0, "at least one container")
    paper = Paper(page, "Container lists")
    for one in pages:
        begin = begin_list(paper, one)
        scale = (paper.w - 28) / sum(one.widths_mm)
        widths = [w * scale for w in one.widths_mm]
        paper.ruled(begin(), widths, one.rows, head=one.head, new_page=begin)
    return bytes(paper.output())


def cards_pdf(pages: Sequence[ListPage], page: str = "A4") -> bytes:
    """Drawer cards, eight to a page with cut lines: name, range of codes, and what is in it."""
    if not pages:
        raise InvalidValue("cards", 0, "at least one container")
    paper = Paper(page, "Drawer cards")
    width, height = 95.0, 62.0
    left, top = (PAGES_MM[page][0] - 2 * width) / 2, (PAGES_MM[page][1] - 4 * height) / 2
    for i, one in enumerate(pages):
        if i % 8 == 0:
            paper.add_page()
        row, column = divmod(i % 8, 2)
        x, y = left + column * width, top + row * height
        paper.set_draw_color(150)
        paper.set_line_width(0.1)
        paper.rect(x, y, width, height)
        paper.qr(x + width - 23, y + 2, 21, one.address or one.title)
        paper.size(paper.largest(one.title, width - 30, 20, 11), bold=True)
        at = paper.put(x + 4, y + 4, one.title, width - 30)
        paper.size(12, bold=True)
        at = paper.put(x + 4, at, one.codes, width - 30)
        paper.size(8)
        at = max(paper.put(x + 4, at, one.under, width - 30), y + 25)
        for cells in one.rows:
            if at > y + height - 6:
                paper.put(x + 4, at, f"and {len(one.rows) - one.rows.index(cells)} more", width - 8)
                break
            at = paper.put(x + 4, at, "  ".join(c for c in cells[:3] if c), width - 8)
    return bytes(paper.output())
