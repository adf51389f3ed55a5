"""Labels: the PDF as it is printed. Its codes are read from the rendered page, its words from the page's text."""

from dataclasses import replace

import pypdfium2
import pytest
import zxingcpp

from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.store.box_code import LETTERS, box_code
from goodcrate.formats.label_pdf import GRIDS, ROLL, BoxLabel, Part, label_sheet
from tests.conftest import new_id

LABEL = BoxLabel(
    "7K3Q",
    "http://boat.local:8080/box/64440c9a-23f9-5d63-a28b-65997a1a7ee7",
    "Maren",
    day="Tue 24 Nov",
    slot="dinner 19:30",
    dish="Turkey thigh and caraway cabbage pot, swede mash",
    parts=(Part("turkey and cabbage", "380 g"), Part("swede mash", "240 g")),
    made="made Sun 22 Nov",
    eat_by="Thu 26 Nov",
    rule="4 days in the fridge: the usual rule for turkey thigh.",
    figures=(("654", "kcal ± 12"), ("66 g", "protein"), ("620 g", "in the box")),
    shares=(("protein", 0.4), ("carbohydrate", 0.29), ("fat", 0.27), ("fibre", 0.04)),
    allergens=("celery", "milk", "mustard"),
    not_for="Not for Oskar (celery).",
    frozen="Frozen Sun 22 Nov. Thaw in the fridge from Mon 23 Nov; eat within a day.",
    heat="Heat once, until 74 °C in the middle.",
    on_the_day="Then add 30 g yoghurt.",
)


def pages(sheet: bytes) -> list[pypdfium2.PdfPage]:
    document = pypdfium2.PdfDocument(sheet)
    return [document[n] for n in range(len(document))]


def words(page: pypdfium2.PdfPage) -> str:
    return " ".join(page.get_textpage().get_text_bounded().split())


def codes(page: pypdfium2.PdfPage) -> list[str]:
    return sorted(found.text for found in zxingcpp.read_barcodes(page.render(scale=4).to_pil()))


def labels(count: int) -> list[BoxLabel]:
    return [replace(LABEL, code=f"{n:04d}", address=f"{LABEL.address[:-4]}{n:04d}") for n in range(count)]


@pytest.mark.parametrize("layout", GRIDS)
def test_every_label_of_a_sheet_leads_to_its_own_box(layout: str) -> None:
    grid = GRIDS[layout]
    made = labels(grid.count + 1)
    first, second = pages(label_sheet(made, layout))
    assert codes(first) == [label.address for label in made[:-1]]
    assert codes(second) == [made[-1].address]
    assert (first.get_width(), first.get_height()) == pytest.approx([mm * 72 / 25.4 for mm in grid.page], abs=0.1)
    assert grid.left + grid.across * (grid.size[0] + grid.gap) - grid.gap <= grid.page[0] + 0.01
    assert grid.top + grid.down * grid.size[1] <= grid.page[1] + 0.01


@pytest.mark.parametrize("layout", [ROLL, *GRIDS])
def test_what_matters_most_stands_on_every_size(layout: str) -> None:
    said = words(pages(label_sheet([LABEL], layout))[0])
    for wanted in ("7K3Q", "Maren", "Tue 24 Nov", "eat by", "Thu 26 Nov", "654", "66 g", "celery", "mustard"):
        assert wanted in said, f"{wanted} on {layout}"


def test_the_roll_says_everything_and_is_as_long_as_that() -> None:
    (page,) = pages(label_sheet([LABEL], ROLL))
    said = words(page)
    figures = ("turkey and cabbage", "380 g", "kcal ± 12", "protein 40 %")
    keeping = ("4 days in the fridge", "Frozen Sun 22 Nov", "made Sun 22 Nov", "Not for Oskar", "Check the packs")
    for wanted in (*figures, *keeping, "74 °C", "Then add 30 g yoghurt"):
        assert wanted in said
    assert page.get_width() == pytest.approx(62 * 72 / 25.4)
    short = pages(label_sheet([replace(LABEL, parts=(), frozen="", on_the_day="", heat="")], ROLL))[0]
    assert short.get_height() < page.get_height()
    assert codes(page) == [LABEL.address]


def test_nothing_reaches_over_the_edge_of_its_label() -> None:
    """The outermost ink of a long label on a lone place of a sheet stays in the label."""
    long = replace(LABEL, dish="Smoked mackerel, beetroot and barley " * 4, allergens=("cereals with gluten",) * 9)
    for layout, grid in GRIDS.items():
        image = pages(label_sheet([long], layout))[0].render(scale=2, grayscale=True).to_pil()
        left, top, right, bottom = image.point(lambda shade: 255 * (shade < 200)).getbbox()
        mm = 25.4 / 72 / 2
        assert left * mm >= grid.left - 0.1
        assert top * mm >= grid.top - 0.1
        assert right * mm <= grid.left + grid.size[0] + 0.1, layout
        assert bottom * mm <= grid.top + grid.size[1] + 0.1, layout


def test_a_blank_one_has_lines_instead_of_figures_and_a_planned_one_says_so() -> None:
    for layout in (ROLL, "a4-10"):
        blank = words(pages(label_sheet([replace(LABEL, is_blank=True)], layout))[0])
        assert "654" not in blank
        assert "Thu 26 Nov" not in blank
        assert "eat by" in blank
        assert "celery" in blank, "allergens do not depend on what was weighed"
        assert "planned" in words(pages(label_sheet([replace(LABEL, is_planned=True)], layout))[0])


def test_used_places_of_the_first_sheet_stay_free() -> None:
    first, second = pages(label_sheet(labels(2), "a4-10", skip=9))
    assert codes(first) == [labels(1)[0].address]
    assert len(codes(second)) == 1
    image = first.render(scale=1).to_pil()
    assert image.getpixel((60, 60)) == (255, 255, 255)


def test_faces_are_embedded_and_the_same_labels_give_the_same_sheet() -> None:
    sheet = label_sheet([LABEL], ROLL)
    assert sheet == label_sheet([LABEL], ROLL)
    assert sheet.count(b"/FontFile2") == 2
    assert b"/BaseFont /Helvetica" not in sheet.replace(b"/BaseFont /Helvetica /Encoding", b"", 1)


def test_other_sizes_and_no_boxes_are_refused() -> None:
    for made, layout in (([LABEL], "a5-3"), ([], ROLL)):
        with pytest.raises(InvalidInput):
            label_sheet(made, layout)


def test_a_code_is_four_signs_nobody_takes_for_others() -> None:
    box_id = new_id()
    assert box_code(box_id) == box_code(box_id)
    assert len(box_code(box_id)) == 4
    assert set(box_code(box_id)) <= set(LETTERS)
    assert not set("ILOU") & set(LETTERS)
