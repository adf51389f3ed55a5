"""The bench without scripts: what is left, pieces, the short one, tares, readings as a file, containers, and labels."""

import csv
import io
import re
from uuid import UUID, uuid4

import pypdfium2
import pytest
import zxingcpp
from fastapi.testclient import TestClient

from goodcrate.core.store.box_code import box_code
from goodcrate.services import kitchen as vessels
from goodcrate.services.calling import Caller
from goodcrate.services.foods import own_foods
from goodcrate.services.portion import rests, spares
from goodcrate.services.store import pantry
from goodcrate.services.store.boxes import containers_in_use, own_box_id
from goodcrate.services.week import weeks
from tests.conftest import MONDAY, Cook, text_of
from tests.services.kitchen import Kitchen, furnish
from tests.web import racing


def event(**fields: str) -> dict[str, str]:
    return {"event": str(uuid4()), **fields}


def box(kitchen: Kitchen, there: str, n: int) -> str:
    return f"/portion/{there}/boxes/{racing.meals(kitchen)[n]}"


def test_what_is_left_is_tasted_or_thrown_away_and_can_be_taken_back(cook: Cook, household: Caller) -> None:
    kitchen = furnish(household)
    there = racing.weighed(cook, kitchen)  # 2,100 g for three boxes
    for n in range(3):
        cook.post(box(kitchen, there, n), event(net_g="650"))
    read = text_of(cook.get(f"/portion/{there}"))
    assert "150 g are left. Where do they go?" in read
    assert "No day changes" in read
    refused = cook.post(f"/portion/{there}/rest", event(rest_g="151", rest_as="tasted"), expect=422).text
    assert "150 g are left in the pot." in text_of(refused)
    assert 'value="151"' in refused
    cook.post(f"/portion/{there}/rest", event(rest_g="50", rest_as="tasted"))
    cook.post(f"/portion/{there}/rest", event(rest_g="100", rest_as="thrown"))
    read = text_of(cook.get(f"/portion/{there}"))
    assert "are left. Where" not in read
    assert "50 g tasted or eaten by the pot" in read
    cook.post(f"/portion/{there}/rest/take-back", event(rest_as="thrown"))
    assert "100 g are left" in text_of(cook.get(f"/portion/{there}"))
    assert "We do not know this fate" in text_of(
        cook.post(f"/portion/{there}/rest", event(rest_g="5", rest_as="sold"), expect=422).text
    )
    # no box may take what was tasted
    too_much = cook.post(box(kitchen, there, 0), event(net_g="751"), expect=422).text
    assert "Only 750 g are left in the pot." in text_of(too_much)


def test_what_is_put_by_is_a_food_of_the_pantry_with_the_figures_of_its_pot(cook: Cook, household: Caller) -> None:
    kitchen = furnish(household)
    there = racing.weighed(cook, kitchen)  # 2,100 g for three boxes
    for n in range(3):
        cook.post(box(kitchen, there, n), event(net_g="650"))
    sent = event(rest_g="100", rest_as="pantry", place="freezer")
    for _ in range(2):  # pressed twice is put by once
        cook.post(f"/portion/{there}/rest", sent)
    cook.post(f"/portion/{there}/rest", event(rest_g="120", rest_as="pantry", place="fridge"))
    read = text_of(cook.get(f"/portion/{there}"))
    assert "120 g put by, a food of the pantry now" in read
    assert "30 g are left" in read
    batch = there.split("/")[1]
    (worked,) = [b for b in weeks.week_picture(household, MONDAY).outcome.batches if b.is_started]  # type: ignore[union-attr]
    food = own_foods.food_by_key(household, str(rests.food_of_pot(UUID(batch)))).food
    pot = worked.outcome.state.batch
    assert food.composition.get("energy_kcal") == pytest.approx(pot.per_100_g("energy_kcal").value, abs=0.01)
    assert food.composition.get("protein_g") == pytest.approx(pot.per_100_g("protein_g").value, abs=0.01)
    assert food.allergens == frozenset().union(*(line.food.allergens for line in worked.outcome.state.lines))
    with household.transaction() as session:
        ((kept, _, thing),) = [k for k in pantry.food_kept(session) if k[1].key == food.key]
    assert (thing.grams, kept.place) == (120, "fridge")
    assert "Cooked and weighed here" in text_of(cook.get(f"/foods/{food.key}"))
    wrong = cook.post(f"/portion/{there}/rest", event(rest_g="5", rest_as="pantry", place="cupboard"), expect=422).text
    assert "is no place for cooked food" in text_of(wrong)
    cook.post(f"/portion/{there}/rest/take-back", event(rest_as="pantry"))
    assert "150 g are left" in text_of(cook.get(f"/portion/{there}"))
    with household.transaction() as session:
        assert [k for k in pantry.food_kept(session) if k[1].key == food.key] == []


def test_boxes_known_by_a_mark_say_so_at_the_bench_and_on_their_labels(cook: Cook, household: Caller) -> None:
    kitchen = furnish(household)
    there = racing.weighed(cook, kitchen)
    whose = str(kitchen.eater_id)
    cook.post(f"/portion/{there}/mark", {"eater": whose, "known_by": " a  toothpick"})
    assert "a toothpick." in text_of(cook.get(f"/portion/{there}"))
    asked = f"/portion/{MONDAY}/labels.pdf?session={session_of(kitchen)}&layout=a4-10"
    printed = "".join(page.get_textpage().get_text_bounded() for page in pdf_pages(cook.client.get(asked).content))
    assert "a toothpick" in " ".join(printed.split())
    long = cook.post(f"/portion/{there}/mark", {"eater": whose, "known_by": "x" * 41}, expect=422).text
    assert "41 letters are too many for a label." in text_of(long)
    assert "x" * 41 in long
    cook.post(f"/portion/{there}/mark", {"eater": str(uuid4()), "known_by": "red"}, expect=404)
    cook.post(f"/portion/{there}/mark", {"eater": whose, "known_by": ""})
    assert "toothpick" not in text_of(cook.get(f"/portion/{there}")).split("Known by")[0]


def test_another_dish_is_topped_up_and_its_day_label_and_allergens_follow(cook: Cook, household: Caller) -> None:
    kitchen = furnish(household)
    there = racing.weighed(cook, kitchen)
    meal = UUID(racing.other_dish(kitchen))
    for n in range(3):
        cook.post(box(kitchen, there, n), event(net_g="650"))

    def grams() -> float:
        picture = weeks.week_picture(household, MONDAY)
        assert picture is not None
        return picture.outcome.boxes[str(meal)].tally.grams

    alone_g = grams()
    assert "Maren, Saturday: Other pot" in text_of(cook.get(f"/portion/{there}"))
    cook.post(f"/portion/{there}/top-up", event(rest_g="150", placement=str(meal)))
    assert grams() == alone_g + 150
    read = text_of(cook.get(f"/portion/{there}"))
    assert "150 g went into Maren’s Saturday box" in read
    assert "are left. Where" not in read
    assert "Other pot" in text_of(cook.get(f"/week/{MONDAY}?box={meal}")), "its working shows both"
    cook.post(f"/portion/{there}/top-up", event(rest_g="1", placement=str(racing.meals(kitchen)[0])), expect=404)
    cook.post(f"/portion/{there}/top-up", event(rest_g="999", placement=str(meal)), expect=422)
    cook.post(f"/portion/{there}/top-up/{meal}/take-out", event())
    assert grams() == alone_g
    assert "150 g are left" in text_of(cook.get(f"/portion/{there}"))


def test_a_larger_portion_says_what_it_does_to_its_day_first(cook: Cook, household: Caller) -> None:
    kitchen = furnish(household)
    there = racing.weighed(cook, kitchen)
    for n in range(3):
        cook.post(box(kitchen, there, n), event(net_g="690"))
    page = cook.get(f"/portion/{there}")
    fates = text_of(page.split('class="fates"')[1])
    assert re.search(r"Maren’s \w+ [\d,]+ of 2,450 kcal, short by [\d,]+, nearer than now A larger portion", fates)
    sent = re.search(
        r'action="(/portion/[^"]+/boxes/[^"]+)".*?name="net_g" value="([^"]+)"', page.split('class="fates"')[1], re.S
    )
    assert sent is not None
    assert sent[2] == "720"
    cook.post(sent[1], event(net_g=sent[2]))
    assert "are left. Where" not in text_of(cook.get(f"/portion/{there}"))


def test_a_tray_is_divided_by_count(cook: Cook, household: Caller) -> None:
    kitchen = furnish(household)
    there = racing.weighed(cook, kitchen)
    for wrong in ("0", "501", "some", "-3"):
        cook.post(f"/portion/{there}/pieces", {"pieces": wrong}, expect=422)
    cook.post(f"/portion/{there}/pieces", {"pieces": "9", "kind": "spadeful"}, expect=422)
    cook.post(f"/portion/{there}/pieces", {"pieces": "9"})
    read = text_of(cook.get(f"/portion/{there}"))
    assert "One piece is 233.3 g on average." in read
    assert "700 g 3 pieces" in read
    cook.post(box(kitchen, there, 0), event(pieces="4"))
    read = text_of(cook.get(f"/portion/{there}"))
    assert "933 g ✓ 4 pieces" in read
    assert "700 g 3 pieces" in read
    assert "467 g 2 pieces" in read
    packed = cook.post(f"/portion/{there}/pieces", {"pieces": "8"}, expect=422).text
    assert "Boxes of this pot are packed." in text_of(packed)
    cook.post(f"{box(kitchen, there, 0)}/take-out", event())
    cook.post(f"/portion/{there}/pieces", {"pieces": ""})
    assert "by weight" in text_of(cook.get(f"/portion/{there}"))
    cook.post(f"/portion/{there}/pieces", {"pieces": "9", "kind": "scoop"})
    assert "One scoop is 233.3 g on average. Take number 1–3" in text_of(cook.get(f"/portion/{there}"))


def test_seven_pieces_of_a_thousand_grams_all_find_a_box(cook: Cook, household: Caller) -> None:
    kitchen = furnish(household, days=7)
    there = racing.begun(kitchen)
    cook.post(f"/portion/{there}/pot", event(gross_g="1000", tare_g="0", shortfall="taken_out"))
    cook.post(f"/portion/{there}/pieces", {"pieces": "7"})
    for n in range(3):
        cook.post(box(kitchen, there, n), event(pieces="1"))
    cook.post(f"/portion/{there}/fill", event())
    picture = weeks.week_picture(household, MONDAY)
    assert picture is not None
    outcome = picture.outcome.batches[0].outcome
    assert sum(p.grams for p in outcome.portions) == pytest.approx(1000, abs=1e-9)
    assert outcome.left_g == pytest.approx(0, abs=1e-9)
    cook.post(box(kitchen, there, 0), event(pieces="2"), expect=422)


def test_juice_is_poured_over_one_plate_by_its_share_of_the_pan(cook: Cook, household: Caller) -> None:
    kitchen = furnish(household)
    there = racing.weighed(cook, kitchen)
    cook.post(box(kitchen, there, 0), event(net_g="1/3"))
    read = text_of(cook.get(f"/portion/{there}"))
    assert "700 g ✓" in read
    assert re.search(r"700 g ✓ [\d,]+ ± 1\d\d kcal", read), "by eye: 35 % of it"
    cook.post(box(kitchen, there, 1), event(net_g="25 %"))
    assert "525 g ✓" in text_of(cook.get(f"/portion/{there}"))
    for wrong in ("1/0", "0 %", "4/3", "120 %"):
        cook.post(box(kitchen, there, 2), event(net_g=wrong), expect=422)


def test_one_box_takes_the_difference_when_somebody_says_so(cook: Cook, household: Caller) -> None:
    kitchen = furnish(household)
    there = racing.weighed(cook, kitchen)
    meal = racing.meals(kitchen)[2]
    grams = re.compile(r"\d\d:\d\d ([\d,]+) g")
    even = grams.findall(text_of(cook.get(f"/portion/{there}")))[-3:]
    cook.post(f"/portion/{there}/short", {"placement": str(meal)})
    one = grams.findall(text_of(cook.get(f"/portion/{there}")))[-3:]
    assert even == ["700"] * 3
    assert one[:2] == ["357", "357"], "as planned"
    assert one[2] == "1,386"
    cook.post(f"/portion/{there}/short", {"placement": ""})
    assert grams.findall(text_of(cook.get(f"/portion/{there}")))[-3:] == even
    cook.post(f"/portion/{there}/short", {"placement": str(uuid4())}, expect=404)
    cook.post(f"/portion/{there}/short", {"placement": str(meal), "step": "5"})
    assert grams.findall(text_of(cook.get(f"/portion/{there}")))[-3:] == ["355", "355", "1,390"]
    cook.post(f"/portion/{there}/short", {"step": "3"}, expect=422)


def test_a_pot_of_the_kitchen_has_its_tare_and_what_is_still_in_it_is_no_food(cook: Cook, household: Caller) -> None:
    kitchen = furnish(household)
    pot = uuid4()
    vessels.save_vessels(household, [vessels.VesselInput(pot, "large pot", "pot", 4500)])
    there = racing.begun(kitchen)
    assert "large pot" in text_of(cook.get(f"/portion/{there}?all_the_same=1"))
    weighed = event(gross_g="2100", tare_g="1000", still_in_g="30", vessel=str(pot), keep_tare="1", shortfall="")
    cook.post(f"/portion/{there}/pot", weighed)
    assert "1,070 g in the pot" in text_of(cook.get(f"/portion/{there}"))
    assert [v.tare_g for v in vessels.vessels(household)] == [1000]
    cook.post(f"/portion/{there}/pot/take-out", event())
    assert "1,000 g empty" in text_of(cook.get(f"/portion/{there}?all_the_same=1"))
    cook.post(f"/portion/{there}/pot", event(gross_g="2100", tare_g="1000", vessel=str(uuid4())), expect=404)


def test_a_reading_of_the_scale_is_not_taken_when_another_device_weighed_meanwhile(
    cook: Cook, household: Caller
) -> None:
    kitchen = furnish(household)
    there = racing.weighed(cook, kitchen)
    mark = re.search(r'data-mark="(\d+)"', cook.get(f"/portion/{there}"))
    assert mark is not None
    cook.post(box(kitchen, there, 0), event(net_g="640", scale_tare="94", seen=mark[1]))
    same = cook.post(box(kitchen, there, 0), event(net_g="640", scale_tare="94", seen=mark[1]))
    assert "not_taken" not in same.headers["location"], "two devices saw the same reading"
    late = cook.post(box(kitchen, there, 1), event(net_g="655.5", scale_tare="94", seen=mark[1]))
    told = text_of(cook.get(late.headers["location"]))
    assert "655.5 g was not written down: something was weighed on another device" in told
    table = csv.DictReader(io.StringIO(cook.get(f"/portion/{MONDAY}/weighings/{session_of(kitchen)}")))
    rows = [row for row in table if row["kind"] == "box"]
    assert [(row["gross_g"], row["tare_g"], row["net_g"], row["how"]) for row in rows] == [
        ("734.0", "94.0", "640.0", "on_scale")
    ]


def session_of(kitchen: Kitchen) -> str:
    picture = weeks.week_picture(kitchen.caller, MONDAY)
    assert picture is not None
    return picture.sessions[0].key


def test_every_reading_of_a_session_is_in_its_file_also_what_was_undone(cook: Cook, household: Caller) -> None:
    kitchen = furnish(household)
    there = racing.weighed(cook, kitchen)
    for grams in ("640", "650"):
        cook.post(box(kitchen, there, 0), event(net_g=grams))
    cook.post(f"{box(kitchen, there, 0)}/take-out", event())
    cook.post(f"/portion/{there}/rest", event(rest_g="20", rest_as="tasted"))
    text = cook.get(f"/portion/{MONDAY}/weighings/{session_of(kitchen)}")
    rows = list(csv.DictReader(io.StringIO(text)))
    told = [(row["kind"], row["net_g"], row["counts"]) for row in rows if row["kind"] != "ingredient"]
    assert told == [
        ("pot", "2100.0", "yes"),
        ("box", "640.0", "no"),
        ("box", "650.0", "no"),
        ("box", "", "no"),
        ("tasted", "20.0", "yes"),
    ]
    assert rows[-1]["component"] == "pot"
    cook.get(f"/portion/{MONDAY}/weighings/{uuid4()}", expect=404)


def test_boxes_take_what_their_containers_hold_and_the_week_says_what_is_missing(cook: Cook, household: Caller) -> None:
    kitchen = furnish(household)
    big, jar = uuid4(), uuid4()
    vessels.save_vessels(
        household,
        [
            vessels.VesselInput(big, "500 ml box", "box", 500, count=2, tare_g=71),
            vessels.VesselInput(jar, "250 ml jar", "box", 250, count=3),
        ],
    )
    week = text_of(cook.get(f"/week/{MONDAY}"))
    assert "1 box too few, for 1 × Turkey pot (500 ml)." in week
    there = racing.begun(kitchen)
    cook.post(f"/portion/{there}/pot", event(gross_g="1200", tare_g="0"))
    picture = weeks.week_picture(household, MONDAY)
    assert picture is not None
    boxed = next(key for key, container in picture.packing.by_key.items() if container.volume_ml == 500)
    cook.post(f"/portion/{there}/short", {"placement": boxed})
    read = text_of(cook.get(f"/portion/{there}?box={boxed}"))
    assert "fill to 405 g" in read, "a box of 500 ml takes 405 g with room to freeze"
    assert "after all boxes: 81 g" in read
    cook.post(f"/portion/{there}/fill", event())
    assert containers_in_use(household) == {big: 2}
    assert "Free now: 0 of 2 × 500 ml box, 3 of 3 × 250 ml jar" in text_of(cook.get("/cook/kitchen"))


def test_the_scale_is_told_nothing_where_there_is_none(cook: Cook, household: Caller) -> None:
    furnish(household)
    assert "No scale is connected" in cook.post("/scale/tell", {"words": "tare"}, expect=409).text
    for words in ("load 500", "dance", "tare\nload 5", "", "t" * 80):
        cook.post("/scale/tell", {"words": words}, expect=422)


def pdf_pages(content: bytes) -> list[pypdfium2.PdfPage]:
    document = pypdfium2.PdfDocument(content)
    return [document[n] for n in range(len(document))]


def test_labels_before_and_after_lead_to_their_boxes(cook: Cook, household: Caller, client: TestClient) -> None:
    kitchen = furnish(household)
    meals = racing.meals(kitchen)
    session = session_of(kitchen)
    assert "as planned" in text_of(cook.get(f"/portion/{MONDAY}/labels"))
    answer = client.get(f"/portion/{MONDAY}/labels.pdf", params={"session": session, "layout": "roll62"})
    assert answer.headers["content-type"] == "application/pdf"
    before = pdf_pages(answer.content)
    assert len(before) == 3
    assert "as planned" in before[0].get_textpage().get_text_bounded()
    for page, meal in zip(before, meals, strict=True):
        (code,) = zxingcpp.read_barcodes(page.render(scale=4).to_pil())
        assert code.text == f"http://localhost/box/{own_box_id(meal)}"
        assert box_code(own_box_id(meal)) in page.get_textpage().get_text_bounded()
        there = client.get(code.text.removeprefix("http://localhost"))
        assert f"/week/{MONDAY}?box={meal}" in there.text
    cook.post(f"/portion/{racing.weighed(cook, kitchen)}/fill", event())
    one = client.get(
        f"/portion/{MONDAY}/labels.pdf", params={"session": session, "layout": "a4-21", "box": str(meals[1])}
    )
    (page,) = pdf_pages(one.content)
    said = page.get_textpage().get_text_bounded()
    assert "protein, 700 g" in " ".join(said.split())
    assert "planned" not in said
    for wrong in ({"layout": "a9"}, {"skip": "many"}, {"some": "1"}):
        refused = client.get(f"/portion/{MONDAY}/labels.pdf", params={"session": session, **wrong})
        assert refused.status_code == 422
    printed = cook.post(f"/portion/{MONDAY}/labels/print", {"session": session}, expect=422).text
    assert "No label printer is connected" in text_of(printed)


def test_boxes_of_others_are_not_found(cook: Cook, household: Caller, neighbour: Caller, client: TestClient) -> None:
    kitchen = furnish(neighbour)
    cook.get(f"/box/{own_box_id(racing.meals(kitchen)[0])}", expect=404)
    cook.get(f"/box/{uuid4()}", expect=404)
    assert UUID(session_of(kitchen))
    cook.get(f"/portion/{MONDAY}/labels?session={session_of(kitchen)}", expect=404)


def test_a_box_for_nobody_says_so(cook: Cook, household: Caller) -> None:
    kitchen = furnish(household)
    there = racing.weighed(cook, kitchen)
    spare = uuid4()
    spares.pack_spare(household, MONDAY, UUID(there.split("/")[1]), spare, uuid4(), 100)
    assert "for nobody yet" in text_of(cook.get(f"/box/{spare}"))
