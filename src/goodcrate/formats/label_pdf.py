"""Labels as PDF: sheets of common grids in A4 and US letter, and a 62 mm roll. Faces are embedded, QR codes are drawn.

A label is laid out for the room it has: what matters most stands in the largest type and is never left out; what does
not fit goes, the least needed first. Textures are those of the screen: protein, starch and sugar, fat, the rest.
"""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from functools import cache, lru_cache
from importlib import resources
from io import BytesIO

import segno
from reportlab.lib.units import mm
from reportlab.pdfbase.pdfmetrics import registerFont, stringWidth
from reportlab.pdfbase.ttfonts import TTFont
from reportlab.pdfgen.canvas import Canvas

from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.ground.wording import Saying, say

TEXT, STRONG = "GoodCrateLabel", "GoodCrateLabelStrong"
A4, LETTER = (210.0, 297.0), (215.9, 279.4)
ROLL_MM = 62.0
LEAST_TYPE = 5.6
"""Smallest type in points: below it a label cannot be read at arm's length."""


@dataclass(frozen=True, slots=True)
class Grid:
    """A sheet of labels, in mm: the page, how many across and down, each one's size, the margins to the left and on
    top, and the gap across."""

    words: str
    page: tuple[float, float]
    many: tuple[int, int]
    size: tuple[float, float]
    margins: tuple[float, float]
    gap: float = 0.0

    @property
    def across(self) -> int:
        """Labels beside each other."""
        return self.many[0]

    @property
    def down(self) -> int:
        """Labels below each other."""
        return self.many[1]

    @property
    def left(self) -> float:
        """The margin to the left, in mm."""
        return self.margins[0]

    @property
    def top(self) -> float:
        """The margin on top, in mm."""
        return self.margins[1]

    @property
    def count(self) -> int:
        """Labels on one page."""
        return self.across * self.down


ROLL = "roll62"
GRIDS: Mapping[str, Grid] = {
    "a4-10": Grid(Saying("A4, 2 × 5 (99 × 57 mm)"), A4, (2, 5), (99.0, 57.0), (6.0, 6.0)),
    "a4-14": Grid(Saying("A4, 2 × 7 (99 × 38 mm)"), A4, (2, 7), (99.1, 38.1), (4.7, 15.1), gap=2.5),
    "a4-21": Grid(Saying("A4, 3 × 7 (63 × 38 mm)"), A4, (3, 7), (63.5, 38.1), (7.2, 15.1), gap=2.5),
    "a4-24": Grid(Saying("A4, 3 × 8 (70 × 37 mm)"), A4, (3, 8), (70.0, 37.0), (0.0, 0.5)),
    "letter-10": Grid(Saying("letter, 2 × 5 (4 × 2 in)"), LETTER, (2, 5), (101.6, 50.8), (4.0, 12.7), gap=4.7),
    "letter-20": Grid(Saying("letter, 2 × 10 (4 × 1 in)"), LETTER, (2, 10), (101.6, 25.4), (4.0, 12.7), gap=4.7),
}
ROLL_WORDS = Saying("62 mm roll, one after another")


@dataclass(frozen=True, slots=True)
class Part:
    """A component in the box and its grams, as words."""

    name: str
    grams: str


@dataclass(frozen=True, slots=True)
class BoxLabel:
    """What one label says, each as it is printed; what is empty is left out.

    `figures` end with the grams in the box. `shares` are texture and share (0 to 1) of the energy, `allergens` are
    printed bold, `not_for` who must not have it. With `is_blank` the figures are lines to write on.
    """

    code: str
    address: str
    whose: str
    day: str
    slot: str
    dish: str
    parts: tuple[Part, ...]
    made: str
    eat_by: str
    rule: str
    figures: tuple[tuple[str, str], ...]
    shares: tuple[tuple[str, float], ...] = ()
    allergens: tuple[str, ...] = ()
    not_for: str = ""
    frozen: str = ""
    heat: str = ""
    on_the_day: str = ""
    is_planned: bool = False
    is_blank: bool = False


@cache
def _faces() -> None:
    for name, file in ((TEXT, "label-text.ttf"), (STRONG, "label-strong.ttf")):
        data = (resources.files("goodcrate") / "formats" / "fonts" / file).read_bytes()
        registerFont(TTFont(name, BytesIO(data)))


def label_sheet(labels: Sequence[BoxLabel], layout: str, *, skip: int = 0) -> bytes:
    """The labels as a PDF. `skip` is how many of the first sheet are used already.

    Raises:
        InvalidInput: for a layout we do not know, or no label at all.
    """
    if layout != ROLL and layout not in GRIDS:
        raise InvalidInput("layout", say("“{layout}” is no size of labels.", layout=layout[:20]), say("Choose one."))
    if not labels:
        raise InvalidInput("boxes", say("There is no box to label."), say("Choose at least one."))
    _faces()
    out = BytesIO()
    canvas = Canvas(out, pageCompression=1, invariant=1)
    canvas.setTitle(say("Labels"))
    canvas.setCreator("Good Crate")
    if layout == ROLL:
        for label in labels:
            _roll_label(canvas, label)
    else:
        _fill_grid(canvas, labels, GRIDS[layout], skip)
    canvas.save()
    return out.getvalue()


def _fill_grid(canvas: Canvas, labels: Sequence[BoxLabel], grid: Grid, skip: int) -> None:
    canvas.setPageSize((grid.page[0] * mm, grid.page[1] * mm))
    for n, label in enumerate(labels, skip % grid.count):
        place = n % grid.count
        if place == 0 and n > skip % grid.count:
            canvas.showPage()
            canvas.setPageSize((grid.page[0] * mm, grid.page[1] * mm))
        row, column = divmod(place, grid.across)
        x = (grid.left + column * (grid.size[0] + grid.gap)) * mm
        y = (grid.page[1] - grid.top - (row + 1) * grid.size[1]) * mm
        _Grid(
            canvas, label, x + 2.6 * mm, y + 2.2 * mm, (grid.size[0] - 5.2) * mm, height=(grid.size[1] - 4.4) * mm
        ).draw()


class _Pen:
    """A place on a canvas where lines of text go down from the top, as wide as there is room."""

    def __init__(
        self, canvas: Canvas, x: float, top: float, width: float, floor: float = 0.0, *, is_measuring: bool = False
    ) -> None:
        self.c, self.x, self.y, self.width, self.floor = canvas, x, top, width, floor
        self.is_measuring = is_measuring

    def fitting(
        self, text: str, face: str, size: float, width: float | None = None, least: float = LEAST_TYPE
    ) -> float:
        """The size at which a line fits the width, not under the least."""
        room = self.width if width is None else width
        wide = stringWidth(text, face, size)
        return size if wide <= room else max(least, size * room / wide)

    def wrapped(self, text: str, face: str, size: float, width: float | None = None) -> list[str]:
        """The text in lines of the width; a word that is wider than a line stands alone."""
        room, lines, now = self.width if width is None else width, list[str](), ""
        for word in text.split():
            longer = f"{now} {word}".strip()
            if now and stringWidth(longer, face, size) > room:
                lines.append(now)
                longer = word
            now = longer
        return [*lines, now] if now else lines

    def write(
        self, text: str, face: str = TEXT, size: float = 8.0, *, most: int = 9, width: float | None = None
    ) -> bool:
        """Write wrapped lines and move down; False when they do not fit above the floor (nothing is written then)."""
        lines = self.wrapped(text, face, size, width)
        if len(lines) > most:
            lines = [*lines[: most - 1], _cut(" ".join(lines[most - 1 :]), face, size, width or self.width)]
        if not lines or self.y - len(lines) * size * 1.14 < self.floor - 0.6:
            return False
        for line in lines:
            self.y -= size * 1.14
            self.c.setFont(face, size)
            self.c.drawString(self.x, self.y + size * 0.2, line)
        return True


def _cut(text: str, face: str, size: float, width: float) -> str:
    while text and stringWidth(f"{text}…", face, size) > width:
        text = text[:-1].rstrip()
    return f"{text}…"


@lru_cache(maxsize=400)
def _modules(address: str) -> tuple[bytes, ...]:
    """The rows of a QR code (ISO/IEC 18004, level M), dark modules 1."""
    return tuple(bytes(row) for row in segno.make(address, error="m", micro=False).matrix)


def _qr(canvas: Canvas, address: str, x: float, y: float, side: float) -> None:
    """A QR code in a square, drawn as bars of its dark modules."""
    rows = _modules(address)
    one = side / len(rows)
    canvas.setFillGray(0)
    path = canvas.beginPath()
    for n, row in enumerate(rows):
        start = None
        for m, dark in enumerate([*row, 0]):
            if dark and start is None:
                start = m
            elif not dark and start is not None:
                path.rect(x + start * one, y + side - (n + 1) * one, (m - start) * one, one * 1.02)
                start = None
    canvas.drawPath(path, stroke=0, fill=1)


def _bar(canvas: Canvas, shares: Iterable[tuple[str, float]], x: float, y: float, width: float, height: float) -> None:
    """Where the energy is from: stripes for protein, dots for starch and sugar, black for fat, lines for the rest."""
    at = x
    canvas.saveState()
    canvas.setLineWidth(0.5)
    for texture, share in shares:
        wide = width * share
        canvas.saveState()
        path = canvas.beginPath()
        path.rect(at, y, wide, height)
        canvas.clipPath(path, stroke=0, fill=0)
        _texture(canvas, texture, at, y, wide, height)
        canvas.restoreState()
        canvas.rect(at, y, wide, height, stroke=1, fill=0)
        at += wide
    canvas.restoreState()


def _texture(canvas: Canvas, texture: str, x: float, y: float, width: float, height: float) -> None:
    if texture == "fat":
        canvas.rect(x, y, width, height, stroke=0, fill=1)
    elif texture == "protein":
        canvas.setLineWidth(1.5)
        for n in range(int((width + height) / 3.4) + 2):
            canvas.line(x - height + n * 3.4, y, x + n * 3.4, y + height)
    elif texture == "carbohydrate":
        canvas.setLineCap(1)  # a line of no length with round ends is a dot
        canvas.setLineWidth(1.4)
        path = canvas.beginPath()
        for n in range(int(width / 2.4) + 1):
            for m in range(int(height / 2.4) + 1):
                path.moveTo(x + 1.2 + n * 2.4, y + 1.2 + m * 2.4)
                path.lineTo(x + 1.2 + n * 2.4, y + 1.2 + m * 2.4)
        canvas.drawPath(path, stroke=1, fill=0)
    else:
        for m in range(int(height / 2.2) + 1):
            canvas.line(x, y + 1 + m * 2.2, x + width, y + 1 + m * 2.2)


@dataclass
class _Grid:
    """One label of a sheet: text to the left of its QR code, the bar along its foot."""

    c: Canvas
    label: BoxLabel
    x: float
    y: float
    width: float
    height: float

    def draw(self) -> None:
        """Draw what has room; the head, the last day and the allergens always have."""
        label, tall = self.label, self.height
        head = min(15.0, max(9.0, tall / 9.0))
        small = min(10.6, max(LEAST_TYPE, tall / 14.4))
        bar = 0.0 if label.is_blank or not label.shares else min(8.0, tall / 14)
        side = min(self.width * 0.3, (tall - bar - head * 1.4) * 0.82)
        pen = _Pen(self.c, self.x, self.y + tall, self.width)
        self._head(pen, head)
        _qr(self.c, label.address, self.x + self.width - side, pen.y - side - 2, side)
        pen.width = self.width - side - 6
        pen.floor = self.y + (bar + 3 if bar else 0)
        self._lines(pen, small)
        if bar:
            _bar(self.c, label.shares, self.x, self.y, self.width, bar)

    def _head(self, pen: _Pen, size: float) -> None:
        label = self.label
        code_wide = stringWidth(label.code, STRONG, size)
        who = f"{label.whose} {label.day}".strip()
        fit = pen.fitting(who, STRONG, size, self.width - code_wide - 34)
        pen.y -= size * 1.05
        self.c.setFillGray(0)
        self.c.setFont(STRONG, fit)
        self.c.drawString(self.x, pen.y, who)
        self.c.setFont(TEXT, size * 0.72)
        self.c.drawString(self.x + stringWidth(who, STRONG, fit) + 4, pen.y, label.slot.split(" ")[-1])
        self.c.setFont(STRONG, size)
        self.c.drawRightString(self.x + self.width, pen.y, label.code)
        pen.y -= 2.5

    def _lines(self, pen: _Pen, small: float) -> None:
        label = self.label
        pen.write(label.dish, STRONG, small * 1.05, most=2 if self.height > 110 else 1)
        if label.is_blank:
            for words in (say("made"), say("eat by"), say("kcal, protein")):
                pen.y -= small * 1.75
                self.c.setFont(TEXT, small)
                self.c.drawString(self.x, pen.y, words)
                start = self.x + stringWidth(words, TEXT, small) + 4
                self.c.line(start, pen.y - 1, self.x + pen.width, pen.y - 1)
        else:
            eat_by = f"{say('eat by')} {label.eat_by}" if label.eat_by else ""
            pen.write(eat_by, STRONG, pen.fitting(eat_by, STRONG, small * 1.2), most=1)
            (*most, (grams, _)) = label.figures
            figures = ", ".join([*(f"{figure} {unit}".strip() for figure, unit in most), grams])
            figures = f"{say('planned')} {figures}" if label.is_planned else figures
            pen.write(figures, STRONG, pen.fitting(figures, STRONG, small * 1.05), most=1)
        allergens = ", ".join(label.allergens)
        pen.write(allergens, STRONG, pen.fitting(allergens, STRONG, small, pen.width * 1.9), most=2)
        more = [label.not_for, label.frozen, label.heat, label.on_the_day, label.made, label.rule]
        for text in more:
            pen.write(text, TEXT, small * 0.92, most=3)


def _roll_label(canvas: Canvas, label: BoxLabel) -> None:
    """One label of the roll, as long as what it says: measured first, then drawn."""
    inner = (ROLL_MM - 7) * mm
    measured = _Pen(Canvas(BytesIO()), 0, 1000 * mm, inner, -1, is_measuring=True)
    _draw_roll(measured, label)
    tall = 1000 * mm - measured.y + 3 * mm
    canvas.setPageSize((ROLL_MM * mm, tall))
    _draw_roll(_Pen(canvas, 3.5 * mm, tall - 2.5 * mm, inner, -1), label)
    canvas.showPage()


def _rule(pen: _Pen, weight: float = 0.7) -> None:
    pen.y -= 3.5
    pen.c.setLineWidth(weight)
    pen.c.line(pen.x, pen.y, pen.x + pen.width, pen.y)
    pen.y -= 1.5


def _draw_roll(pen: _Pen, label: BoxLabel) -> None:
    c = pen.c
    c.setFillGray(0)
    _roll_head(pen, label)
    pen.write(label.dish, STRONG, 12.5, most=3)
    for part in label.parts:
        pen.y -= 11
        c.setFont(TEXT, 9)
        c.drawString(pen.x, pen.y + 1.5, _cut_to(part.name, 9, pen.width - 46))
        c.setFont(STRONG, 9)
        c.drawRightString(pen.x + pen.width, pen.y + 1.5, part.grams)
    _rule(pen)
    top, side = pen.y, 23 * mm
    beside = pen.width - side - 6
    if label.is_blank:
        for words in (say("made"), say("eat by"), say("kcal"), say("protein, g")):
            pen.y -= 15
            c.setFont(TEXT, 9)
            c.drawString(pen.x, pen.y, words)
            c.line(pen.x + stringWidth(words, TEXT, 9) + 4, pen.y - 1, pen.x + beside, pen.y - 1)
    else:
        pen.write(label.made, TEXT, 9, width=beside)
        if label.eat_by:
            pen.write(say("eat by"), TEXT, 9, width=beside)
            pen.write(label.eat_by, STRONG, 17, width=beside)
        pen.write(label.rule, TEXT, 7.6, width=beside)
        pen.write(label.frozen, STRONG, 8.6, width=beside)
    if not pen.is_measuring:
        _qr(c, label.address, pen.x + pen.width - side, top - side - 3, side)
    pen.y = min(pen.y, top - side - 4)
    if not label.is_blank:
        _roll_figures(pen, label)
    _roll_foot(pen, label)


def _roll_head(pen: _Pen, label: BoxLabel) -> None:
    c = pen.c
    size = pen.fitting(label.whose, STRONG, 25, pen.width - 52)
    pen.y -= 24
    c.setFont(STRONG, size)
    c.drawString(pen.x, pen.y + 3, label.whose)
    wide = stringWidth(label.code, STRONG, 14) + 14
    path = c.beginPath()
    left, low, high = pen.x + pen.width - wide, pen.y + 1, pen.y + 21
    path.moveTo(left, low)
    path.lineTo(left, high)
    path.lineTo(left + wide - 6, high)
    path.lineTo(left + wide, high - 6)
    path.lineTo(left + wide, low)
    path.close()
    c.drawPath(path, stroke=0, fill=1)
    c.setFillGray(1)
    c.setFont(STRONG, 14)
    c.drawString(left + 6, low + 5.5, label.code)
    c.setFillGray(0)
    pen.y -= 15
    c.setFont(STRONG, 14)
    c.drawString(pen.x, pen.y + 2, label.day)
    left_g = pen.width - stringWidth(label.day, STRONG, 14) - 8
    c.setFont(TEXT, pen.fitting(label.slot, TEXT, 13, left_g))
    c.drawRightString(pen.x + pen.width, pen.y + 2, label.slot)
    _rule(pen, 1.6)


def _roll_figures(pen: _Pen, label: BoxLabel) -> None:
    c = pen.c
    _rule(pen)
    pen.y -= 15
    wide = sum(stringWidth(f, STRONG, 14) + stringWidth(u, TEXT, 8.4) for f, u in label.figures)
    room = pen.width - 3 * len(label.figures) - 6 * (len(label.figures) - 1)
    less, x = min(1.0, room / wide), pen.x
    gap = 6 + max(0.0, room - wide) / max(1, len(label.figures) - 1)
    for figure, unit in label.figures:
        c.setFont(STRONG, 14 * less)
        c.drawString(x, pen.y + 2, figure)
        x += stringWidth(figure, STRONG, 14 * less) + 3
        c.setFont(TEXT, 8.4 * less)
        c.drawString(x, pen.y + 2, unit)
        x += stringWidth(unit, TEXT, 8.4 * less) + gap
    if label.shares:
        pen.y -= 13
        if not pen.is_measuring:
            _bar(c, label.shares, pen.x, pen.y, pen.width, 10)
        pen.y -= 2
        words = " · ".join(f"{_TEXTURE_WORDS[texture]} {round(share * 100)} %" for texture, share in label.shares)
        pen.write(words, TEXT, pen.fitting(words, TEXT, 7.6), most=2)
    if label.is_planned:
        pen.write(say("Figures as planned: not weighed yet."), TEXT, 7.6)


_TEXTURE_WORDS = {
    "protein": Saying("protein"),
    "carbohydrate": Saying("starch, sugar"),
    "fat": Saying("fat"),
    "fibre": Saying("fibre"),
}


def _roll_foot(pen: _Pen, label: BoxLabel) -> None:
    _rule(pen)
    if label.allergens:
        pen.write(say("Contains"), TEXT, 8.6)
        pen.write(", ".join(label.allergens), STRONG, 10.5)
        pen.write(f"{label.not_for} {say('Check the packs: recipes change.')}".strip(), TEXT, 7.8)
    else:
        pen.write(say("No declared allergen is known of. Check the packs: recipes change."), TEXT, 7.6)
    if label.heat:
        _rule(pen)
        pen.write(label.heat, STRONG, 9)
    if label.on_the_day:
        pen.write(label.on_the_day, TEXT, 9)


def _cut_to(text: str, size: float, width: float) -> str:
    return text if stringWidth(text, TEXT, size) <= width else _cut(text, TEXT, size, width)
