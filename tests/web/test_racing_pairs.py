"""Two hands at once, for every kind of write: nobody is at fault, a repeated send answers like the first, and of two
different ones under the same id the second is told."""

from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from datetime import date
from threading import Barrier
from typing import Any
from uuid import UUID, uuid4

import pytest
from sqlalchemy import select

from goodcrate.db.cook import WeighingRow
from goodcrate.services import cook as cooking
from goodcrate.services import labels, plan_process, recipes, week
from goodcrate.services.calling import Caller
from tests.conftest import PASSWORD, Cook, name_of, text_of
from tests.hostile import forms_of
from tests.services.kitchen import MONDAY, Kitchen, furnish

PAIRS = 5
Sent = tuple[str, dict[str, Any]]
THERE = f"/week/{MONDAY}"


def race(cook: Cook, *sent: Sent) -> list[tuple[int, str]]:
    """Send all at the same moment; answers status and where each leads."""
    start = Barrier(len(sent))

    def one(what: Sent) -> tuple[int, str]:
        start.wait(60)
        url, fields = what
        answer = cook.client.post(url, data={"csrf": cook.csrf, **fields}, follow_redirects=False)
        assert answer.status_code < 500, f"{url}: {text_of(answer.text)}"
        return answer.status_code, answer.headers.get("location", "")

    with ThreadPoolExecutor(len(sent)) as hands:
        return list(hands.map(one, sent))


@pytest.fixture
def kitchen(household: Caller) -> Kitchen:
    return furnish(household, 1.5, days=4)


def meals(kitchen: Kitchen) -> list[UUID]:
    picture = week.week_picture(kitchen.caller, MONDAY)
    assert picture is not None
    return [p.id for p in sorted(picture.placements, key=lambda p: p.day)]


def slot(kitchen: Kitchen, day: int) -> str:
    return f"{kitchen.eater_id}.{kitchen.slot_id}.{date(2026, 11, 23 + day)}"


def batch(kitchen: Kitchen) -> str:
    picture = week.week_picture(kitchen.caller, MONDAY)
    assert picture is not None
    plan = picture.outcome.batches[0].plan
    return f"{MONDAY}/{cooking.batch_id_for(picture.week.id, plan.session_key, plan.component_key)}"


def form_as(cook: Cook, page: str, action: str, changes: dict[str, str]) -> Sent:
    """A page's form with some words replaced throughout, ids among them."""
    form = forms_of(page, cook.get(page))[action]
    fields: dict[str, Any] = {}
    for name, value in form.fields:
        for old, new in changes.items():
            name, value = name.replace(old, new), value.replace(old, new)  # noqa: PLW2901
        if name != "csrf":
            fields.setdefault(name, []).append(value)
    for old, new in changes.items():
        action = action.replace(old, new)
    return action, fields


def same_new_recipe(cook: Cook, kitchen: Kitchen) -> Sequence[Sent]:
    ids = [kitchen.recipe_id, kitchen.component_id, *kitchen.line_ids]
    page = f"/recipes/{kitchen.recipe_id}"
    url, fields = form_as(cook, page, page, {str(i): str(uuid4()) for i in ids})
    fields |= {"version": ["0"], "page": [str(uuid4())]}
    return [(url, fields)] * 2


def same_new_eater(cook: Cook, kitchen: Kitchen) -> Sequence[Sent]:
    page = f"/targets/{kitchen.eater_id}"
    url, fields = form_as(cook, page, page, {str(kitchen.eater_id): str(uuid4()), str(kitchen.slot_id): str(uuid4())})
    days = {k: v for k, v in fields.items() if not k.startswith("day-")}
    day = uuid4()
    for name, value in {
        "name": "every day",
        "energy_kcal": "2000",
        "protein_floor_g": "90",
        "energy_band_pct": "3",
    }.items():
        days[f"day-{day}-{name}"] = [value]
    return [(url, days | {"version": ["0"], "name": ["Nils"]})] * 2


def box_in_the_house(kitchen: Kitchen, **more: str) -> Sent:
    return "/store", {
        "id": str(uuid4()), "kind": "boxes", "recipe": str(kitchen.recipe_id), "count": "2", "grams": "330",
        "place": "freezer", "since": "2026-11-10", "until": "", **more,
    }  # fmt: skip


def label(row_id: str) -> Sent:
    return "/foods/label", {
        "id": row_id, "version": "0", "name": f"Crackers {row_id[:4]}", "group": "grain", "state": "ready",
        "diet": "plant", "basis": "100g", "energy_kcal": "400", "fat_g": "10", "carbohydrate_g": "60",
        "protein_g": "12", "fibre_g": "8", "fibre": "apart",
    }  # fmt: skip


WISHES = {"keep": "usual", "different": "2", "repeats": "7", "freezer_boxes": "6", "scope": "gaps"}
Pairing = Callable[[Cook, Kitchen], Sequence[Sent]]
REPEATED: dict[str, Pairing] = {
    "a batch is started": lambda _, k: [(f"/cook/{batch(k)}/start", {})] * 2,
    "an ingredient is weighed": lambda _, k: [
        (f"/cook/{batch(k)}/lines/{line(k)}", {"net": "1190 g", "event": str(uuid4())})
    ] * 2,
    "a meal is placed": lambda _, k: [
        (f"{THERE}/place", {"gap": slot(k, 5), "days": str(date(2026, 11, 28)), "recipe": str(k.recipe_id),
                            "servings": "1", "id": str(uuid4())})
    ] * 2,
    "a meal is taken out": lambda _, k: [(f"{THERE}/meals/{meals(k)[0]}/remove", {})] * 2,
    "a plan begins": lambda *_: [(f"{THERE}/plan", {**WISHES, "id": str(uuid4())})] * 2,
    "a new recipe": same_new_recipe,
    "a copy of a recipe": lambda _, k: [(f"/recipes/{k.recipe_id}/duplicate", {"copy-id": str(uuid4())})] * 2,
    "a new eater": same_new_eater,
    "a box in the house": lambda _, k: [box_in_the_house(k)] * 2,
    "a week is opened": lambda *_: [(f"/week/{date(2027, 3, 1)}/open", {"days": "7"})] * 2,
    "a session": lambda *_: [(f"{THERE}/sessions", {"starts_at": "2026-11-25T18:30"})] * 2,
    "a pattern": lambda *_: [(f"{THERE}/pattern", {"pattern_name": "lean week", "id": str(uuid4())})] * 2,
    "a pot is weighed": lambda _, k: [
        (f"/portion/{begun(k)}/pot", {"gross_g": "2100 g", "tare_g": "0", "event": str(uuid4())})
    ] * 2,
    "boxes are filled as divided": lambda c, k: [(f"/portion/{weighed(c, k)}/fill", {"event": str(uuid4())})] * 2,
    "an eater is put aside": lambda _, k: [(f"/targets/{k.eater_id}/aside", {"aside": "1"})] * 2,
    "a recipe is put aside": lambda _, k: [(f"/recipes/{k.recipe_id}/archive", {"archived": "1"})] * 2,
    "lines are taken in": lambda *_: [("/recipes/import/one", {"id": str(uuid4()), "recipe": FOUND})] * 2,
}  # fmt: skip
FOUND = (
    '{"name": "Oats", "servings": 2, "lines": [["", ["200 g rolled oats"]]], "steps": [], "note": "", "tags": [], '
    '"origin": "", "claimed_kcal": null, "document": null, "notices": []}'
)
DIFFERENT: dict[str, Pairing] = {
    "move against remove": lambda _, k: [
        (f"{THERE}/meals/{meals(k)[0]}/move", {"to": slot(k, 1)}), (f"{THERE}/meals/{meals(k)[1]}/remove", {}),
    ],
    "two moves that change places": lambda _, k: [
        (f"{THERE}/meals/{meals(k)[0]}/move", {"to": slot(k, 1)}),
        (f"{THERE}/meals/{meals(k)[1]}/move", {"to": slot(k, 0)}),
    ],
    "two meals into one slot": lambda _, k: [
        (f"{THERE}/place", {"gap": slot(k, 5), "days": str(date(2026, 11, 28)), "recipe": str(k.recipe_id),
                            "servings": "1", "id": str(uuid4())})
        for _ in range(2)
    ],
    "two plans": lambda *_: [(f"{THERE}/plan", {**WISHES, "id": str(uuid4())}) for _ in range(2)],
    "remove against put back": lambda _, k: [
        (f"{THERE}/meals/{meals(k)[0]}/remove", {}), (f"{THERE}/meals/{meals(k)[0]}/restore", {}),
    ],
    "all pinned against all removed": lambda _, k: [
        (f"{THERE}/many", {"act": act, "meals": [str(m) for m in meals(k)]}) for act in ("pin", "remove")
    ],
    "undone twice at once": lambda _, k: [(f"/recipes/{changed(k)}/undo", {})] * 2,
    "facts of a food nobody had": lambda *_: [
        ("/foods/bulgur_dry/facts", {"price": price}) for price in ("1.20", "1.30")
    ],
    "two labels": lambda *_: [label(str(uuid4())) for _ in range(2)],
    "vessels": lambda *_: [
        ("/cook/kitchen", {"vessel": (v := str(uuid4())), f"vessel-{v}-name": "pot", f"vessel-{v}-kind": "pot",
                           f"vessel-{v}-volume_ml": "4", f"vessel-{v}-count": "1"})
        for _ in range(2)
    ],
    "settings": lambda *_: [
        (f"{THERE}/capacity", {"fridge_boxes": "9", "freezer_boxes": "9", "keep_rule": "usual"}),
        ("/foods/measures", {"convention": "us", "polyol_share": "50"}),
    ],
    "box out and back": lambda c, k: [(f"/store/{noted(c, k)}/{act}", {}) for act in ("out", "back")],
    "a session goes while a batch of it starts": lambda c, k: [
        (f"{THERE}/sessions/{session_id(c, k)}/remove", {}), (f"/cook/{batch(k)}/start", {}),
    ],
    "portions fitted while one is changed": lambda _, k: [
        (f"{THERE}/fit", {"step": "5"}), (f"{THERE}/meals/{meals(k)[0]}", {"servings": "1.2", "version": "1"}),
    ],
    "a recipe is saved while it is put aside": lambda c, k: [
        form_as(c, f"/recipes/{k.recipe_id}", f"/recipes/{k.recipe_id}", {"Turkey pot": f"Pot {uuid4().hex[:4]}"}),
        (f"/recipes/{k.recipe_id}/archive", {"archived": "0"}),
    ],
}  # fmt: skip


def begun(kitchen: Kitchen) -> str:
    line(kitchen)
    return batch(kitchen)


def weighed(cook: Cook, kitchen: Kitchen) -> str:
    there = begun(kitchen)
    cook.client.post(
        f"/portion/{there}/pot",
        data={"csrf": cook.csrf, "gross_g": "2100 g", "tare_g": "0", "event": str(uuid4())},
    )
    return there


def changed(kitchen: Kitchen) -> UUID:
    saved = recipes.get_input(kitchen.caller, kitchen.recipe_id)
    recipes.save_recipe(kitchen.caller, replace(saved, name=f"Pot {uuid4().hex[:4]}"))
    return kitchen.recipe_id


def line(kitchen: Kitchen) -> UUID:
    picture = week.week_picture(kitchen.caller, MONDAY)
    assert picture is not None
    batch_id = UUID(batch(kitchen).partition("/")[2])
    cooking.start_batch(kitchen.caller, MONDAY, batch_id)
    with kitchen.caller.transaction() as session:
        from goodcrate.db.cook import BatchRow

        row = session.find(BatchRow, batch_id)
        assert row is not None
        return row.lines[0].id


def session_id(cook: Cook, kitchen: Kitchen) -> UUID:
    cook.post(f"{THERE}/sessions", {"starts_at": "2026-11-22T16:00"})  # the one before may have lost the race
    picture = week.week_picture(kitchen.caller, MONDAY)
    assert picture is not None
    return UUID(picture.sessions[0].id.hex)


def noted(cook: Cook, kitchen: Kitchen) -> str:
    url, fields = box_in_the_house(kitchen)
    cook.post(url, fields)
    return str(fields["id"])


@pytest.fixture(autouse=True)
def no_planner(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(plan_process, "launch", lambda *_: None)


@pytest.mark.parametrize("name", REPEATED)
def test_a_repeated_send_answers_like_the_first(cook: Cook, kitchen: Kitchen, name: str) -> None:
    for _ in range(min(PAIRS, len(meals(kitchen)))):
        first, second = race(cook, *REPEATED[name](cook, kitchen))
        assert first == second
        assert first[0] == 303


@pytest.mark.parametrize("name", DIFFERENT)
def test_two_writers_at_once_are_both_answered(cook: Cook, kitchen: Kitchen, name: str) -> None:
    for _ in range(PAIRS):
        if len(meals(kitchen)) < 2:
            break  # all were taken out
        statuses = [status for status, _ in race(cook, *DIFFERENT[name](cook, kitchen))]
        assert set(statuses) <= {303, 404, 409, 422}
        assert 303 in statuses


def test_the_same_entry_with_another_weight_is_told(cook: Cook, kitchen: Kitchen) -> None:
    there, line_id = batch(kitchen), line(kitchen)
    for n in range(PAIRS):
        event = str(uuid4())
        url = f"/cook/{there}/lines/{line_id}"
        sent = [(url, {"net": f"{700 + n} g", "event": event}), (url, {"net": f"{800 + n} g", "event": event})]
        assert sorted(status for status, _ in race(cook, *sent)) == [303, 409]
        with kitchen.caller.transaction() as session:
            kept = session.scalars(select(WeighingRow).where(WeighingRow.id == UUID(event))).all()
            assert len(kept) == 1
        again = cook.client.post(url, data={"csrf": cook.csrf, "net": "12 g", "event": event})
        assert again.status_code == 409
        assert f"saved as {float(kept[0].net_g or 0):.1f} g already" in text_of(again.text)


def test_two_sign_ins_at_once(cook: Cook, kitchen: Kitchen, household: Caller) -> None:
    name = name_of(household.database, household)
    page = forms_of("/sign-in", cook.client.get("/sign-in").text)["/sign-in"]
    door = dict(page.fields)["csrf"]
    for _ in range(3):  # a fifth wrong one would have to wait, and the right one from the same browser with it
        good, bad = race(
            cook, ("/sign-in", {"csrf": door, "name": name, "password": PASSWORD}),
            ("/sign-in", {"csrf": door, "name": name, "password": "not-the-right-one"}),
        )  # fmt: skip
        assert good[0] == 303
        assert bad[0] in (422, 429)


def test_an_older_page_overwrites_nothing(cook: Cook, kitchen: Kitchen, household: Caller) -> None:
    """A price, a vessel and the fridge, each changed elsewhere while an older page is still open."""
    food, old = "/foods/bulgur_dry", {"version": "0", "price": "1.20"}
    labels.remember_facts(household, "bulgur_dry", {"price": 2.5})
    kept = cook.post(f"{food}/facts", old, expect=409)
    assert "changed elsewhere" in text_of(kept.text)
    assert 'value="1.20"' in kept.text  # what was typed
    now = dict(forms_of(food, kept.text)[f"{food}/facts"].fields)
    cook.post(f"{food}/facts", {"version": now["version"], "price": "1.20"})

    def vessel(row_id: str, name: str, version: str = "0") -> dict[str, str]:
        p = f"vessel-{row_id}"
        return {"vessel": row_id, f"{p}-name": name, f"{p}-kind": "pot", f"{p}-volume_ml": "4", f"{p}-count": "1",
                f"{p}-version": version}  # fmt: skip

    one, two = str(uuid4()), str(uuid4())
    cook.post("/cook/kitchen", vessel(one, "small pot"))
    cook.post("/cook/kitchen", vessel(two, "large pot"))  # an older page, which knew none: the first one stays
    assert {"small pot", "large pot"} <= set(_values(cook.get("/cook/kitchen")))
    cook.post("/cook/kitchen", {**vessel(one, "little pot", "1"), "shown": [one]})
    refused = cook.post("/cook/kitchen", {**vessel(one, "tiny pot", "1"), "shown": [one]}, expect=409)
    assert {"tiny pot", "large pot"} <= set(_values(refused.text))
    again = forms_of("/cook/kitchen", refused.text)["/cook/kitchen"]
    fields: dict[str, list[str]] = {}
    for name, value in again.fields:
        fields.setdefault(name, []).append(value)
    cook.post("/cook/kitchen", fields)
    assert {"tiny pot", "large pot"} <= set(_values(cook.get("/cook/kitchen")))
    cook.post("/cook/kitchen", {"shown": [one]})  # left out of a page that showed it: gone
    assert "tiny pot" not in _values(cook.get("/cook/kitchen"))

    page = forms_of(THERE, cook.get(THERE))[f"{THERE}/capacity"]
    shown = {k: v for k, v in page.fields if k != "csrf"} | {"fridge_boxes": "9"}
    cook.post(f"{THERE}/capacity", shown)
    older = cook.post(f"{THERE}/capacity", {**shown, "fridge_boxes": "3"}, expect=409)
    assert "changed elsewhere" in text_of(older.text)


def _values(html: str) -> list[str]:
    return [value for form in forms_of("/", html).values() for _, value in form.fields]
