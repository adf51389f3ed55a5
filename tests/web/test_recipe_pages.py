"""The recipe bench and its library, page by page: what is sent comes back, is saved by itself, and never hurts."""

import json
import re
from concurrent.futures import ThreadPoolExecutor
from html import unescape
from html.parser import HTMLParser
from urllib.parse import urlencode
from uuid import UUID, uuid4

import httpx2
import pytest
from fastapi.testclient import TestClient

from goodcrate.services import kitchen
from goodcrate.services.calling import Caller
from goodcrate.services.kitchen import VesselInput
from goodcrate.services.recipes import library, recipe_input, saving
from goodcrate.services.targets import household_eaters
from tests.conftest import Cook, text_of
from tests.services.kitchen import eater_input, turkey_pot
from tests.services.recipes.test_recipe_growth import SOUP, full_recipe

Fields = list[tuple[str, str]]


class _Fields(HTMLParser):
    """The fields of the recipe form as a browser would send them."""

    def __init__(self) -> None:
        super().__init__()
        self.fields: Fields = []
        self._inside = False
        self._select = ""
        self._area = ""

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        has = dict(attrs)
        if tag == "form":
            self._inside = has.get("id") == "recipe"
        name = has.get("name") or ""
        if not self._inside or (not name and tag != "option"):
            return
        if tag == "input" and (has.get("type") != "checkbox" or "checked" in has):
            self.fields.append((name, has.get("value") or ""))
        elif tag == "select":
            self._select = name
            self.fields.append((name, ""))
        elif tag == "option" and ("selected" in has) and self._select:
            self.fields[-1] = (self._select, has.get("value") or "")
        elif tag == "textarea":
            self._area = name
            self.fields.append((name, ""))

    def handle_data(self, data: str) -> None:
        if self._area:
            self.fields[-1] = (self._area, data)

    def handle_endtag(self, tag: str) -> None:
        self._area = ""
        if tag == "form":
            self._inside = False


def shown_fields(html: str) -> Fields:
    """The fields of a recipe's page, as they would be sent."""
    parser = _Fields()
    parser.feed(html)
    return parser.fields


def put(fields: Fields, name: str, value: str) -> Fields:
    return [(n, value if n == name else v) for n, v in fields]


@pytest.fixture
def bench(household: Caller, cook: Cook) -> tuple[UUID, Fields]:
    """A full recipe, and its page's fields."""
    eater = eater_input()
    household_eaters.save_eater(household, eater)
    kitchen.save_vessels(household, [VesselInput(uuid4(), "large pot", "pot", 4500)])
    typed = full_recipe(eater.id)
    saving.save_recipe(household, typed)
    return typed.id, shown_fields(cook.get(f"/recipes/{typed.id}"))


def send(cook: Cook, url: str, fields: Fields, expect: int = 200) -> str:
    answer = in_order(cook, url, fields)
    assert answer.status_code == expect, f"{url}: {answer.status_code} {text_of(answer.text)[-400:]}"
    return answer.text


def in_order(cook: Cook, url: str, fields: Fields) -> httpx2.Response:
    """Send fields in the order of the page, as a browser does."""
    body = urlencode([("csrf", cook.csrf), *((n, v) for n, v in fields if n != "csrf")])
    kind = {"content-type": "application/x-www-form-urlencoded"}
    return cook.client.post(url, content=body, headers=kind, follow_redirects=False)


def test_the_page_sends_back_what_is_saved(household: Caller, cook: Cook, bench: tuple[UUID, Fields]) -> None:
    recipe_id, fields = bench
    before = library.get_input(household, recipe_id)
    send(cook, f"/recipes/{recipe_id}", fields, expect=303)
    assert library.get_input(household, recipe_id) == before


def test_figures_notes_and_versions_follow_what_is_typed(cook: Cook, bench: tuple[UUID, Fields]) -> None:
    recipe_id, fields = bench
    html = send(cook, f"/recipes/{recipe_id}/compute", fields)
    read = text_of(html)
    assert "without 1 line" in read
    assert "a glug of joy" in read
    assert "olive oil" in read
    assert "12 min hands-on" not in read  # a look at the oven is a minute too
    assert "13 min of work, 40 min unattended" in read
    assert re.search(r"About \d\.\d l, goes into large pot", read)
    assert "your choice" in read


def test_it_saves_by_itself_says_what_keeps_it_and_undoes(
    household: Caller, cook: Cook, bench: tuple[UUID, Fields]
) -> None:
    recipe_id, fields = bench
    amount = next(name for name, _ in fields if name.endswith("-amount"))
    said = text_of(send(cook, f"/recipes/{recipe_id}/autosave", put(fields, amount, "1300")))
    assert said.startswith("Saved ")
    assert library.get_recipe(household, recipe_id).recipe.lines[0].amount.grams == 1300
    fields = put(fields, "version", "2")
    said = text_of(send(cook, f"/recipes/{recipe_id}/autosave", put(fields, amount, "some")))
    assert "Not saved yet: “some” is not an amount." in said
    other_tab = put(put(fields, "version", "1"), "page", str(uuid4()))
    stale = text_of(send(cook, f"/recipes/{recipe_id}/autosave", put(other_tab, amount, "900")))
    assert "Changed elsewhere" in stale
    assert library.get_recipe(household, recipe_id).recipe.lines[0].amount.grams == 1300
    cook.post(f"/recipes/{recipe_id}/undo")
    assert library.get_recipe(household, recipe_id).recipe.lines[0].amount.grams == 1200
    assert "version 1" in text_of(cook.get(f"/recipes/{recipe_id}"))
    cook.post(f"/recipes/{recipe_id}/versions/2")
    assert library.get_recipe(household, recipe_id).recipe.lines[0].amount.grams == 1300


def changes_in(html: str) -> dict[str, str]:
    found = re.search(r'data-changes="([^"]*)"', html)
    assert found is not None, text_of(html)
    changes: dict[str, str] = json.loads(found[1].replace("&#34;", '"').replace("&quot;", '"'))
    return changes


def test_another_size_is_shown_before_it_is_taken(household: Caller, cook: Cook, bench: tuple[UUID, Fields]) -> None:
    recipe_id, fields = bench
    html = send(cook, f"/recipes/{recipe_id}/scale", [*fields, ("scale-by", "servings"), ("scale-to", "9")])
    assert "Your largest pot" in text_of(html) or "goes into" in text_of(html)
    changes = changes_in(html)
    assert changes["servings"] == "9"
    for name, value in changes.items():
        fields = put(fields, name, value)
    send(cook, f"/recipes/{recipe_id}", fields, expect=303)
    saved = library.get_recipe(household, recipe_id).recipe
    assert [x.amount.grams for x in saved.lines] == [1800, 1350, 60]
    assert (saved.components[0].cooked_g, saved.servings, saved.steps[1].duration_min) == (2700, 9, 80)  # two fillings
    for by, to, said in (
        ("servings", "900", "900 servings is not possible"),
        ("servings", "many", "not a number"),
        ("portion", "5 kg", "more than a home kitchen"),
        ("packs", "", "Choose an ingredient"),
    ):
        asked = [(n, v) for n, v in fields if not n.startswith("scale-")]
        html = send(cook, f"/recipes/{recipe_id}/scale", [*asked, ("scale-by", by), ("scale-to", to)])
        assert said in text_of(html)


def test_a_serving_is_fitted_before_it_is_taken(cook: Cook, bench: tuple[UUID, Fields]) -> None:
    recipe_id, fields = bench
    assert "Turkey thigh" in send(cook, f"/recipes/{recipe_id}/fit-lines", fields)
    lines = [v for n, v in fields if n == "line"]
    asked = [(n, v) for n, v in fields if not n.startswith("fit-")]
    wanted = [("fit-kcal", "420"), ("fit-protein", "44"), ("fit-move", lines[0]), ("fit-move", lines[2])]
    html = send(cook, f"/recipes/{recipe_id}/fit", [*asked, *wanted])
    assert "Take these weights" in html
    assert any(name.endswith("-amount") for name in changes_in(html))
    impossible = [*asked, ("fit-kcal", "120"), ("fit-protein", "80"), ("fit-move", lines[0])]
    assert "comes no nearer than" in text_of(send(cook, f"/recipes/{recipe_id}/fit", impossible))
    assert "No ingredient may move" in text_of(send(cook, f"/recipes/{recipe_id}/fit", [*asked, ("fit-kcal", "500")]))
    assert "What should a serving come to?" in text_of(send(cook, f"/recipes/{recipe_id}/fit", asked))


def test_a_swap_shows_its_shifts_and_can_be_for_one_eater(cook: Cook, bench: tuple[UUID, Fields]) -> None:
    recipe_id, fields = bench
    line = next(v for n, v in fields if n == "line")
    asked = [(n, v) for n, v in fields if not n.startswith("swap-")]
    html = send(cook, f"/recipes/{recipe_id}/swap", [*asked, ("swap-line", line), ("swap-for", "tempeh")])
    read = text_of(html)
    assert "now holds soya" in read
    assert "meat becomes plant food" in read
    assert "Only for Maren" in read
    adds = re.findall(r'data-adds="([^"]*)"', html)
    pairs = [(n, v) for n, v in json.loads(adds[0].replace("&#34;", '"'))]
    computed = text_of(send(cook, f"/recipes/{recipe_id}/compute", [*fields, *[(str(n), str(v)) for n, v in pairs]]))
    assert "Tempeh, plain" in computed
    nothing = send(cook, f"/recipes/{recipe_id}/swap", [*asked, ("swap-line", line), ("swap-for", "unobtainium")])
    assert "No food is called" in text_of(nothing)
    oil = send(
        cook,
        f"/recipes/{recipe_id}/swap",
        [*asked, ("swap-line", line), ("swap-for", "rapeseed oil"), ("swap-by", "protein")],
    )
    assert "has no protein to match with" in text_of(oil)


def test_lines_are_pasted_into_the_component_they_were_typed_in(cook: Cook) -> None:
    both = {"into": "component-1-paste", "component-1-paste": "250 g okra", "component-2-paste": ""}
    assert "Okra" in cook.post("/recipes/paste", both, expect=200).text
    second = both | {"into": "component-2-paste", "component-2-paste": "90 g millet, dry"}
    html = cook.post("/recipes/paste", second, expect=200).text
    assert "Millet" in html
    assert "Okra" not in html


def test_one_page_is_one_writer_however_its_saves_race(
    cook: Cook, bench: tuple[UUID, Fields], household: Caller
) -> None:
    recipe_id, fields = bench
    name, address = "name", f"/recipes/{recipe_id}"

    def typed(edit: int) -> Fields:
        return put(put(fields, "edit", str(edit)), name, f"Soup {edit}")

    for _ in range(4):  # saving by itself and the button, at once, from the same version of the page
        fields = shown_fields(cook.get(address))
        with ThreadPoolExecutor(2) as hands:
            by_itself = hands.submit(send, cook, f"{address}/autosave", typed(1))
            button = hands.submit(in_order, cook, address, typed(2))
        assert "Changed elsewhere" not in text_of(by_itself.result())
        assert button.result().status_code == 303
        assert library.get_recipe(household, recipe_id).recipe.name == "Soup 2"
    late = text_of(send(cook, f"{address}/autosave", typed(1)))
    assert "Saved" in late
    assert library.get_recipe(household, recipe_id).recipe.name == "Soup 2"


def test_a_component_that_is_sent_twice_is_there_once(
    cook: Cook, bench: tuple[UUID, Fields], household: Caller
) -> None:
    recipe_id, fields = bench
    before = library.get_recipe(household, recipe_id).recipe
    first = next(v for n, v in fields if n == "component")
    lines = [(n, v) for n, v in fields if n == "line"][:1]
    said = text_of(send(cook, f"/recipes/{recipe_id}/autosave", [*fields, ("component", first), *lines]))
    assert "Saved" in said
    after = library.get_recipe(household, recipe_id).recipe
    assert [c.key for c in after.components] == [c.key for c in before.components]
    assert [line.key for line in after.lines] == [line.key for line in before.lines]


def test_pasted_lines_and_steps_become_rows(cook: Cook) -> None:
    html = cook.post("/recipes/paste", {"into": "p", "p": "250 g okra\nzest of 2 limes\n3 wibbles"}, expect=200).text
    read = text_of(html)
    assert "Okra, raw" in read
    assert "No peel but lemon peel is known" in read
    assert "not understood" in read
    html = cook.post(
        "/recipes/steps", {"method": "1. Brown the meat, 12 min\n2. Bake at 180 °C for 1 hour"}, expect=200
    ).text
    assert re.findall(r'-minutes"\s+value="(\d+)"', html) == ["12", "60"]
    assert re.findall(r'-temperature"\s+value="([^"]*)"', html) == ["", "180"]
    assert re.findall(r'-after"\s+value="([^"]*)"', html) == ["", "1"]
    many = cook.post("/recipes/paste", {"into": "p", "p": "1 egg\n" * 400}, expect=422).text
    assert "400 lines are more than a recipe holds" in text_of(many)


def test_an_import_takes_what_it_promises_and_says_what_is_too_much(client: TestClient, cook: Cook) -> None:
    def page_of(megabytes: float) -> bytes:
        half = "x" * int(megabytes * 500_000)
        graph = [
            {"@type": "Recipe", "name": name, "description": half, "recipeIngredient": ["200 g quark"]}
            for name in ("One", "Two")
        ]
        return json.dumps({"@context": "https://schema.org", "@graph": graph}).encode()

    for status, where in (
        upload(client, cook, file=("two.json", page_of(11.5))),
        upload(client, cook, page_of(11.5).decode()),
    ):
        assert status == 303, text_of(where)[-300:]
        assert "0 of 2" in text_of(cook.get(where))
    status, html = upload(client, cook, file=("big.json", page_of(12.8)))
    assert status == 413
    assert "at most 12 MB" in text_of(html)


def test_the_library_filters_and_names_twins(household: Caller, cook: Cook) -> None:
    for name, grams in (("Big pot", 2000.0), ("Small pot", 500.0)):
        saving.save_recipe(household, turkey_pot(name, grams))
    saving.save_recipe(household, full_recipe_tagged())
    read = text_of(cook.get("/recipes"))
    assert "3 of 3" in read
    assert "like another" in read
    assert "2 of 3" in text_of(cook.get("/recipes?q=pot"))
    assert "1 of 3" in text_of(cook.get("/recipes?kcal_from=400"))
    assert "1 of 3" in text_of(cook.get("/recipes?hands=30&cold=1"))
    assert "0 of 3" in text_of(cook.get("/recipes?hands=5"))
    assert "Give a number" in text_of(cook.get("/recipes?kcal_to=lots", expect=422))


def full_recipe_tagged() -> recipe_input.RecipeInput:
    from dataclasses import replace

    from goodcrate.core.recipes.steps import Step

    dish = recipe_input.ComponentInput(uuid4(), "salad", (recipe_input.LineInput(uuid4(), "tempeh", 300),))
    steps = (Step(str(uuid4()), "Slice it", "", "", 8.0),)
    made = recipe_input.RecipeInput(uuid4(), "Cold box", 2, (dish,), tags=("cold", "travels"))
    return replace(made, steps=steps)


def test_put_aside_copied_printed_and_taken_out(household: Caller, cook: Cook, bench: tuple[UUID, Fields]) -> None:
    recipe_id, _ = bench
    printed = text_of(cook.get(f"/recipes/{recipe_id}/print"))
    assert "170–190 °C" in printed
    assert "a glug of joy" in printed
    exported = json.loads(cook.get(f"/recipes/{recipe_id}/export.json"))
    assert exported["@type"] == "Recipe"
    assert len(json.loads(cook.get("/recipes/export.json"))["@graph"]) == 1
    assert cook.get(f"/recipes/{recipe_id}/lines.csv") == cook.get("/recipes/lines.csv")
    copy = cook.post(f"/recipes/{recipe_id}/duplicate", {"copy-id": str(uuid4())}).headers["location"]
    assert "(copy)" in cook.get(copy)
    cook.post(f"/recipes/{recipe_id}/archive", {"archived": "1"})
    assert "1 of 1" in text_of(cook.get("/recipes"))
    assert "Taken out 1 of 1" in text_of(cook.get("/recipes?archived=1"))
    assert "is taken out of the library" in text_of(cook.get(f"/recipes/{recipe_id}"))
    cook.post(f"/recipes/{recipe_id}/archive", {"archived": "0"})
    assert "2 of 2" in text_of(cook.get("/recipes"))


def upload(client: TestClient, cook: Cook, pasted: str = "", file: tuple[str, bytes] | None = None) -> tuple[int, str]:
    answer = client.post(
        "/recipes/import",
        data={"csrf": cook.csrf, "pasted": pasted, "id": str(uuid4())},
        files={"file": file or ("", b"")},
        follow_redirects=False,
    )
    return answer.status_code, answer.headers.get("location") or answer.text


def test_one_recipe_is_reviewed_line_by_line_and_taken_in_once(client: TestClient, cook: Cook) -> None:
    status, html = upload(client, cook, json.dumps(SOUP))
    assert status == 200
    read = text_of(html)
    assert "4 of 6 lines understood" in read
    assert "Split peas" in read
    stored = re.search(r'name="recipe"\s+value="([^"]*)"', html)
    assert stored is not None
    fields = {"recipe": unescape(stored[1]), "id": str(uuid4())}
    there = cook.post("/recipes/import/one", fields).headers["location"]
    assert cook.post("/recipes/import/one", fields).headers["location"] == there
    page = text_of(cook.get(there))
    assert "without 2 lines not understood yet" in page
    assert "Yes, that is it" in page
    assert "no longer whole" in text_of(cook.post("/recipes/import/one", {"recipe": "{"}, expect=422).text)


def test_many_recipes_come_in_with_progress(client: TestClient, cook: Cook) -> None:
    text = json.dumps([{**SOUP, "name": f"Soup {n}"} for n in range(7)])
    status, there = upload(client, cook, file=("soups.json", text.encode()))
    assert status == 303
    assert "0 of 7 recipes" in text_of(cook.get(there))
    done = text_of(cook.post(there, expect=200).text)
    assert "7 of 7 recipes 7 imported 14 lines to confirm 0 refused" in done
    assert "7 of 7 recipes" in text_of(cook.get(there))


HOSTILE = (
    '<script type="application/ld+json">{"@type": "Recipe", "name": "<img src=x onerror=alert(1)>Soup", '
    '"recipeIngredient": ["1 egg\\"><script>alert(1)<\\/script>"], "recipeInstructions": "javascript:alert(1)"}'
    "</script>"
)


@pytest.mark.parametrize(
    ("pasted", "file", "said"),
    [
        ("", None, "Nothing was pasted or chosen"),
        ("{", None, "This is not JSON"),
        ("[" * 100_000, None, "nested too deeply"),
        ("", ("x.csv", b"a;b\n1;2\n"), "The columns “recipe” and “ingredient” are needed"),
        ("", ("x.json", b"\xff\xfe\x00"), "no UTF-8 text"),
        ("", ("x.json", b" " * 12_100_000), "more than we take"),
    ],
)
def test_what_cannot_come_in_is_said_at_its_place(
    client: TestClient, cook: Cook, pasted: str, file: tuple[str, bytes] | None, said: str
) -> None:
    status, html = upload(client, cook, pasted, file)
    assert status in (413, 422)
    assert status == 413 or said in text_of(html)


def test_hostile_pages_come_in_as_text(client: TestClient, cook: Cook) -> None:
    status, html = upload(client, cook, HOSTILE)
    assert status == 200
    assert "<img src=x" not in html
    assert "<script>alert(1)" not in html
    assert "Soup" in text_of(html)


def test_the_kitchen_keeps_what_was_typed(household: Caller, cook: Cook) -> None:
    vessel = str(uuid4())
    fields = {
        "vessel": vessel,
        f"vessel-{vessel}-name": "large pot",
        f"vessel-{vessel}-kind": "pot",
        f"vessel-{vessel}-volume_ml": "4,5 l",
        f"vessel-{vessel}-count": "1",
    }
    cook.post("/cook/kitchen", fields)
    assert [v.volume_ml for v in kitchen.vessels(household)] == [4500]
    wrong = cook.post("/cook/kitchen", {**fields, f"vessel-{vessel}-volume_ml": "lots"}, expect=422).text
    assert 'value="lots"' in wrong
    assert "is not a number" in text_of(wrong)
    assert "large pot" in cook.get("/cook/kitchen")


def test_what_cannot_be_read_of_a_paste_stands_there_again(cook: Cook) -> None:
    """A browser without scripts sends the boxes for pasting: too many lines in one of them lose nothing."""
    component, there = uuid4(), f"/recipes/{uuid4()}/read"
    typed = {"component": str(component), f"component-{component}-name": "base", "name": "Much"}
    many, steps = "\n".join(f"{n} g okra" for n in range(1, 303)), "\n".join(f"Stir {n} times" for n in range(61))
    refused = cook.post(there, typed | {f"component-{component}-paste": many, "method": "Stir"}, expect=422)
    assert "302 g okra</textarea>" in refused.text
    assert refused.text.count('name="step" value') == 1
    refused = cook.post(there, typed | {f"component-{component}-paste": "80 g okra", "method": steps}, expect=422)
    assert "Stir 60 times</textarea>" in refused.text
    assert "These are 61 steps. A recipe has at most 60." in text_of(refused.text)
    assert "Okra" in refused.text
    assert "61 steps" in cook.post("/recipes/steps", typed | {"method": steps}, expect=422).text
