"""Foods through their pages: what is typed stays typed, figures carry units, files and scans lead somewhere."""

import re
from uuid import uuid4

import pytest
from fastapi import FastAPI
from fastapi.testclient import TestClient

from goodcrate.devices.catalogue import CatalogueItem, CatalogueUnavailable
from goodcrate.services.calling import Caller
from goodcrate.services.foods import labels, own_foods
from goodcrate.services.recipes import saving
from tests.conftest import Cook, text_of
from tests.hostile import forms_of
from tests.services.kitchen import turkey_pot

CHEESE = "2319425008132"
SKYR = {
    "name": "Skyr",
    "group": "dairy",
    "state": "ready",
    "basis": "100g",
    "fibre": "apart",
    "energy_kcal": "62",
    "fat_g": "0.2",
    "carbohydrate_g": "4.0",
    "protein_g": "11",
    "salt_g": "0.13",
}


def label(**changes: str) -> dict[str, str]:
    """The label form as sent."""
    return {"id": str(uuid4()), "version": "0", "origin": "", "source_kind": "label", "diet": "dairy"} | SKYR | changes


def key_of(location: str) -> str:
    return location.rsplit("/", 1)[1]


def test_the_finder_says_what_this_much_is(cook: Cook) -> None:
    page = text_of(cook.get("/foods?q=37+g+hazelnuts"))
    assert "37 g Hazelnuts, shelled weighed ± 0.6 g 239 kcal ± 4 energy 5.6 g ± 0.1 protein" in page
    assert "37 × 6.450 239" in page
    part = cook.client.get("/foods?part=rows&q=2+tbsp+rapeseed")
    assert "2 tablespoons × 15 ml × 0.915 g per ml = 28 g ± 2.7 g" in text_of(part.text)
    assert part.headers["hx-replace-url"] == "/foods?q=2+tbsp+rapeseed"
    assert "How heavy is tempeh, plain? Weigh 100 ml of it." in text_of(cook.get("/foods?q=1+tbsp+tempeh"))
    assert "two ways" in text_of(cook.get("/foods?q=1,500+g+oats"))
    assert "No food is called “xylophone”" in text_of(cook.get("/foods?q=xylophone"))


def test_filters_with_a_slip_of_their_own_say_so(cook: Cook) -> None:
    page = text_of(cook.get("/foods?group=legume&protein=seven&kcal=120"))
    assert "“seven” is not a number" in page
    assert "Butter beans" in page
    assert "Pearl barley" not in page


def test_a_label_is_read_while_it_is_typed(cook: Cook) -> None:
    typed = label(energy_kcal="1510", protein_g="11", fat_g="6.5", carbohydrate_g="60", fibre_g="10")
    part = text_of(cook.post("/foods/label/compute", typed, expect=200).text)
    assert "Likeliest: 1510 are kJ, typed as kcal." in part
    assert "more than pure fat holds" in part
    assert "60 + 10 fibre" in part
    again = text_of(cook.post("/foods/label/compute", label(), expect=200).text)
    assert "It adds up. The figures make 62 kcal per 100 g; 62 are printed." in again


def test_a_refused_label_keeps_every_word_and_names_the_fields(cook: Cook) -> None:
    sent = label(group="", protein_g="130", pack="a lot", barcode="2319425008133", note="from the “lock” <shop>")
    answer = cook.post("/foods/label", sent, expect=422)
    page = text_of(answer.text)
    for words in ("Choose what kind of food it is", "130 g in 100 g is not possible", "not an amount in grams"):
        assert words in page
    for value in ("130", "a lot", "2319425008133"):
        assert f'value="{value}"' in answer.text
    assert "from the “lock” &lt;shop&gt;" in answer.text
    wrong_digit = cook.post("/foods/label", label(barcode="2319425008133"), expect=422)
    assert "should be 2, not 3" in text_of(wrong_digit.text)


def test_the_label_asks_what_a_food_is_made_of_and_holds_it_against_its_allergens(cook: Cook) -> None:
    asked = cook.post("/foods/label", label(diet="", group="fat", name="Butter"), expect=422)
    assert "What is it made of?" in text_of(asked.text)
    wrong = cook.post("/foods/label", label(diet="plant", **{"allergen-milk": "1"}), expect=422)
    assert "said to be plants only, and holds milk" in text_of(wrong.text)
    sure = cook.post("/foods/label", label(diet="", group="fish", name="Char"))
    assert sure.headers["location"].startswith("/foods/")
    edit = cook.get("/foods/butter_salted/label")
    assert '<option value="dairy" selected>' in edit
    rice = cook.post("/foods/label", label(diet="plant", group="grain", state="dry", name="Jasmine rice"))
    assert '<option value="rice" selected>' in cook.get(f"{rice.headers['location']}/label")


def test_the_finder_answers_only_what_it_understood(cook: Cook) -> None:
    eggs = text_of(cook.get("/foods?q=2+eggs"))
    assert eggs.index("2 × medium egg, shelled of about") < eggs.index("2 of what?")
    assert " 2 g ±" not in eggs
    for typed, said in (
        ("7+olives", "7 × green olive, pitted of about 4 g"),
        ("1+clove+garlic", "1 × clove of garlic, peeled of about 4 g"),
        ("2+scoops+whey+protein+powder", "2 × scoop of about 30 g"),
        ("6+slices+cucumber", "6 × slice of about 7 g"),
        ("a+third+of+a+bag+spinach", "0.333 × pack of 200 g"),
    ):
        assert said in text_of(cook.get(f"/foods?q={typed}"))
    almonds = text_of(cook.get("/foods?q=120+kcal+almonds"))
    assert "120 kcal ÷" in almonds
    assert "Almonds" in almonds
    assert "120 g" not in almonds


def test_a_food_shows_its_source_its_gaps_and_its_doubt(cook: Cook, household: Caller) -> None:
    location = cook.post(
        "/foods/label",
        label(basis="serving", basis_g="15", energy_kcal="90", protein_g="4", fat_g="8", carbohydrate_g="1"),
    ).headers["location"]
    page = text_of(cook.get(location))
    assert "Typed from its label" in page
    assert "protein 26.7 g ± 1.9" in page
    assert "5 of 38 figures known." in page
    assert "A sum over this food says “at least” there." in page
    form = cook.get(f"{location}/label")
    assert re.search(r'name="basis_g"\s+value="15"', form)
    again = cook.post("/foods/label", label(id=key_of(location), version="1", name="Skyr, strained"))
    assert "Skyr, strained" in text_of(cook.get(again.headers["location"]))
    stale = cook.post("/foods/label", label(id=key_of(location), version="1", name="Skyr, thin"), expect=409)
    assert "was changed elsewhere" in text_of(stale.text)
    assert 'value="Skyr, thin"' in stale.text


def test_an_overridden_typical_food_shows_both_figures_and_the_way_back(cook: Cook) -> None:
    cook.post("/foods/label", label(origin="quark", name="Quark from the lock shop", energy_kcal="72"))
    page = text_of(cook.get("/foods/quark"))
    assert "Origin: “Quark, virtually fat free” of the reference table" in page
    assert "energy 72 kcal 66 kcal" in page
    assert "calcium 105 mg the same" in page
    cook.post("/foods/quark/reference")
    assert "energy 66 kcal" in text_of(cook.get("/foods/quark"))


def test_facts_are_remembered_in_the_units_they_are_asked_in(cook: Cook, household: Caller) -> None:
    cook.post("/foods/tempeh/facts", {"density_g_per_ml": "55", "each_g": "", "pack_g": "0.2 kg", "price": "1.80"})
    food = own_foods.food_by_key(household, "tempeh").food
    assert (food.density_g_per_ml, food.pack_g, food.price, food.each_g) == (0.55, 200, 1.8, None)
    refused = cook.post("/foods/tempeh/facts", {"density_g_per_ml": "heavy", "refuse_pct": "120"}, expect=422)
    assert "not a number" in text_of(refused.text)
    assert 'value="heavy"' in refused.text
    out = cook.post("/foods/tempeh/facts", {"refuse_pct": "120"}, expect=422)
    assert "120 is out of range. From 0 to 95." in text_of(out.text)


def test_comparing_says_the_difference_and_bad_choices_say_what_to_do(cook: Cook) -> None:
    page = text_of(cook.get("/foods/compare?food=quark&food=feta&food=cottage_cheese"))
    assert "The most protein: Feta-type brined cheese, 15.6 g of protein per 100 g" in page
    assert "In 10 g of protein 83 g 64 g 83 g" in page
    assert "Choose 2 to 4" in text_of(cook.get("/foods/compare?food=quark", expect=422))
    assert "Choose 2 to 4" in text_of(cook.get("/foods/compare?food=quark&food=no-such-food", expect=422))


def test_cups_and_spoons_are_chosen_and_used(cook: Cook) -> None:
    settings = dict(forms_of("/settings", cook.get("/settings"))["/settings"].fields) | {"name": "A galley"}
    settings.pop("version")
    cook.post("/settings", {**settings, "convention": "australian", "polyol_share": "100 %"})
    assert "2 tablespoons × 20 ml" in text_of(cook.get("/foods?q=2+tbsp+rapeseed"))
    assert "Australian" in text_of(cook.get("/foods/measures"))
    wrong = {"name": "", "currency_code": "euros", "convention": "roman", "polyol_share": "many"}
    refused = text_of(cook.post("/settings", {**settings, **wrong}, expect=422).text)
    for said in ("needs a name", "At most 3 are read", "not among the choices", "not a number"):
        assert said in refused
    assert "A galley" in cook.get("/settings")  # nothing was saved


class Shelf:
    """A catalogue with one item, or a failure."""

    def __init__(self, failure: str = "") -> None:
        self.failure = failure

    def look_up(self, barcode: str) -> CatalogueItem | None:
        if self.failure:
            raise CatalogueUnavailable(self.failure)
        known = {"basis": "100g", "energy_kcal": "266", "fat_g": "22", "carbohydrate_g": "0.7", "protein_g": "16"}
        item = CatalogueItem(barcode, "Salad <cheese>", "dairy", "ready", ("milk",), "200", label=known)
        return item if barcode == CHEESE else None


def test_a_scan_leads_to_the_food_the_catalogue_or_an_empty_label(client: TestClient, cook: Cook) -> None:
    assert isinstance(client.app, FastAPI)
    client.app.state.catalogue = Shelf()
    offered = cook.get(f"/foods/scan?code={CHEESE}")
    assert "From the catalogue. Compare it with the pack in your hand" in text_of(offered)
    assert 'value="Salad &lt;cheese&gt;"' in offered
    assert "Salad <cheese>" in text_of(cook.get(f"/foods?q={CHEESE}"))
    assert "Nobody knows this barcode yet" in text_of(cook.get("/foods/scan?code=2999999999991"))
    assert "should be 2, not 3" in text_of(cook.get("/foods/scan?code=2319425008133", expect=422))
    client.app.state.catalogue = Shelf("The catalogue cannot be reached.")
    assert "cannot be reached. Type the label" in text_of(cook.get(f"/foods/scan?code={CHEESE}"))
    location = cook.post("/foods/label", label(barcode=CHEESE)).headers["location"]
    answer = client.get(f"/foods/scan?code={CHEESE}", follow_redirects=False)
    assert answer.headers["location"] == location


def send_file(cook: Cook, data: bytes, expect: int, **fields: str) -> str:
    """Upload a file through the form; the page or the address it leads to."""
    answer = cook.client.post(
        "/foods/files",
        data={"csrf": cook.csrf, "id": str(uuid4()), "encoding": "auto", **fields},
        files={"file": ("foods.csv", data, "text/csv")},
        follow_redirects=False,
    )
    assert answer.status_code == expect, text_of(answer.text)[-300:]
    return answer.headers["location"] if expect == 303 else answer.text


def test_a_file_goes_in_by_way_of_its_report(cook: Cook, household: Caller) -> None:
    data = "name;kcal;protein_g\nKäse;350;25,5\nBad;10;130\n".encode("cp1252")
    where = send_file(cook, data, 303)
    report = text_of(cook.get(where))
    assert "1 refused 0 changed 1 added" in report
    assert "Käse" in report
    assert "Read as cp1252: check the accents" in report
    assert own_foods.count_foods(household)[0] == 0
    for _ in range(2):  # sent twice, applied once
        assert cook.post(where).headers["location"] == where
        assert "1 food added, 0 changed, 1 row refused." in text_of(cook.get(where))
    assert "older than a day" in text_of(cook.post(f"/foods/files/{uuid4()}", expect=422).text)
    assert "Käse,,ready" in cook.get("/foods/export.csv")


@pytest.mark.parametrize(
    ("data", "expect", "says"),
    [
        (b"", 422, "The file is empty"),
        (b"\x00\x01\x02", 422, "no text file"),
        (b"colour,size\nred,3\n", 422, "no column “name”"),
        (b"x" * 8_100_000, 422, "8 MB is too large"),
        (b"x" * 50_000_000, 413, "at most 8 MB are taken here"),
    ],
)
def test_files_that_cannot_be_taken_say_why_and_change_nothing(
    cook: Cook, household: Caller, data: bytes, expect: int, says: str
) -> None:
    assert says in text_of(send_file(cook, data, expect))
    assert own_foods.count_foods(household)[0] == 0


def test_an_upload_needs_its_token_and_a_file(cook: Cook) -> None:
    assert cook.client.post("/foods/files", data={"csrf": "guessed"}).status_code == 403
    assert "No file was chosen" in text_of(cook.post("/foods/files", expect=422).text)


def test_a_recipe_page_says_that_a_food_changed_and_takes_the_answer(cook: Cook, household: Caller) -> None:
    typed = turkey_pot()
    saving.save_recipe(household, typed)
    cook.post(
        "/foods/label",
        label(
            origin="cabbage_raw",
            name="Cabbage",
            group="vegetable",
            diet="plant",
            energy_kcal="35",
            protein_g="2",
            fat_g="0.1",
            carbohydrate_g="5",
        ),
    )
    assert "a food changed" in text_of(cook.get("/recipes"))
    page = text_of(cook.get(f"/recipes/{typed.id}"))
    assert "A food has changed since this recipe was made" in page
    assert "Cabbage : 25 → 35 kcal per 100 g" in page
    cook.post(f"/recipes/{typed.id}/figures", {"choice": "keep"})
    assert "Kept as it was: earlier figures of Cabbage" in text_of(cook.get(f"/recipes/{typed.id}"))
    cook.post(f"/recipes/{typed.id}/figures", {"choice": "follow"})
    page = text_of(cook.get(f"/recipes/{typed.id}"))
    assert "Kept as it was" not in page
    assert "has changed" not in page


def test_the_doubt_on_a_tape_has_its_one_click(cook: Cook, household: Caller) -> None:
    typed = turkey_pot()
    saving.save_recipe(household, typed)
    oil = typed.components[0].lines[2].id
    assert f'data-fix-field="line-{oil}-amount"' in cook.get(f"/recipes/{typed.id}")
    key = labels.save_food(
        household,
        labels.FoodInput(
            uuid4(), "Nut butter", {"basis": "serving", "basis_g": "15", "energy_kcal": "90"}, group="nut_seed"
        ),
    )
    found = re.search(r'class="fix" href="([^"]+)"', cook.get("/foods?q=600+g+nut+butter"))
    assert found is not None
    assert found[1] == f"/foods/{key}/label"
