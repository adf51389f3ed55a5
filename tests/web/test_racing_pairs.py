"""Two hands at once, for every kind of write: nobody is at fault, a repeated send answers like the first, and of two
different ones under the same id the second is told."""

from concurrent.futures import ThreadPoolExecutor
from datetime import date
from threading import Barrier
from uuid import UUID, uuid4

import pytest
from fastapi import FastAPI
from fastapi.testclient import TestClient
from sqlalchemy import func, select
from starlette.routing import compile_path

from goodcrate.core.ground.errors import InvalidInputs
from goodcrate.db.accounts import Household
from goodcrate.db.cook import WeighingRow
from goodcrate.db.session import Database
from goodcrate.services import accounts, people
from goodcrate.services.calling import Caller
from goodcrate.services.foods import labels
from goodcrate.services.jobs import process
from goodcrate.services.store.boxes import own_box_id
from goodcrate.services.week import placing
from tests.conftest import PASSWORD, Cook, name_of, text_of
from tests.hostile import forms_of, routes_of
from tests.services.kitchen import MONDAY, Kitchen, furnish
from tests.web import racing, racing_whole
from tests.web.racing import FREE, THERE, Pairing, Sent, race

PAIRS = 3
SHOP = f"/shop/{MONDAY}"
WISHES = {"keep": "usual", "different": "2", "repeats": "7", "freezer_boxes": "6", "scope": "gaps"}
FOUND = (
    '{"name": "Oats", "servings": 2, "lines": [["", ["200 g rolled oats"]]], "steps": [], "note": "", "tags": [], '
    '"origin": "", "claimed_kcal": null, "document": null, "notices": []}'
)


def event(**fields: str) -> dict[str, str]:
    return {"event": str(uuid4()), **fields}


def placed(kitchen: Kitchen, **more: str) -> dict[str, str]:
    slot = racing.slot(kitchen, 5)
    return {"gap": slot, "days": FREE, "recipe": str(kitchen.recipe_id), "servings": "1", "id": str(uuid4()), **more}


BACK = f"/review/{MONDAY}"
REPEATED: dict[str, Pairing] = {
    **racing_whole.REPEATED,
    "/cook/kitchen": lambda c, _: [racing.vessel(c)] * 2,
    "/cook/{first_day}/{batch_id}/start": lambda _, k: [(f"/cook/{racing.batch(k)}/start", {})] * 2,
    "/cook/{first_day}/{batch_id}/lines/{line_id}": lambda _, k: (
        [(f"/cook/{racing.batch(k)}/lines/{racing.line(k)}", event(net="1190 g"))] * 2
    ),
    "/cook/{first_day}/{batch_id}/lines/{line_id}/take-out": lambda _, k: (
        [(f"{racing.taken_in(k, 1190)}/take-out", event())] * 2
    ),
    "/cook/{first_day}/{batch_id}/lines/{line_id}/spoon": lambda _, k: (
        [(f"/cook/{racing.batch(k)}/lines/{racing.line(k, 2)}/spoon", event(spoon="teaspoon"))] * 2
    ),
    "/cook/{first_day}/{batch_id}/lines/{line_id}/said": lambda _, k: (
        [(f"/cook/{racing.batch(k)}/lines/{racing.line(k)}/said", event(how="left_out"))] * 2
    ),
    "/cook/{first_day}/{batch_id}/rest": lambda _, k: [(f"/cook/{racing.begun(k)}/rest", event(how="as_planned"))] * 2,
    "/cook/{first_day}/{batch_id}/put-in": lambda _, k: (
        [(f"/cook/{racing.begun(k)}/put-in", event(food="carrot_raw", net="20 g"))] * 2
    ),
    "/cook/{first_day}/sheet/{session_id}": lambda c, k: [(racing.sheet(c, k), {"id": str(uuid4())})] * 2,
    "/cook/{first_day}/sheet/{session_id}/begin": lambda c, k: [(f"{racing.made_sheet(c, k)}/begin", {})] * 2,
    "/cook/{first_day}/now/{session_id}/steps": lambda c, k: (
        [(f"{racing.cooking_now(c, k)}/steps", event(step=f"{k.recipe_id}/box", kind="done"))] * 2
    ),
    "/cook/{first_day}/sheet/{session_id}/stop": lambda c, k: (
        [(f"{racing.sheet(c, k)}/stop", {"job": str(racing.job(k))})] * 2
    ),
    "/cook/{first_day}/sheet/{session_id}/times": lambda c, k: (
        [(f"{racing.sheet(c, k)}/times", {"recipe": str(racing.timed(k)), "step": "chop", "minutes": "5"})] * 2
    ),
    "/cook/{first_day}/sheet/{session_id}/ready": lambda c, k: [(f"{racing.sheet(c, k)}/ready", {"minutes": "95"})] * 2,
    "/cook/{first_day}/sheet/{session_id}/dishes": lambda c, k: (
        [(f"{racing.sheet(c, k)}/dishes", {"dish": str(k.recipe_id), "to": ""})] * 2
    ),
    "/targets/first": lambda *_: [racing.first_eater()] * 2,
    "/recipes/shelf": lambda *_: [("/recipes/shelf", {"take": "turkey"})] * 2,
    "/week/begin": lambda *_: [("/week/begin", {"id": str(uuid4())})] * 2,
    "/foods/files": lambda *_: [("/foods/files", {"id": str(uuid4()), "file": b"name,kcal\nRusk,380\n"})] * 2,
    "/foods/files/{file_id}": lambda _, k: [(f"/foods/files/{racing.file_waiting(k)}", {})] * 2,
    "/foods/label": lambda *_: [racing.label(str(uuid4()))] * 2,
    "/settings": lambda c, _: [racing.own_form(c, "/settings", "/settings", polyol_share="40")] * 2,
    "/cook/kitchen/equipment": lambda *_: [("/cook/kitchen/equipment", {"cooks": "2", "burners": "3"})] * 2,
    "/week/{first_day}/close": lambda *_: [(f"{THERE}/close", {})] * 2,
    "/week/{first_day}/open-again": lambda *_: [(f"{THERE}/open-again", {})] * 2,
    "/foods/{key}/facts": lambda c, k: (
        [racing.own_form(c, f"/foods/{racing.own_figures(k)}", "/foods/cabbage_raw/facts", price="2.10")] * 2
    ),
    "/foods/{key}/reference": lambda _, k: [(f"/foods/{racing.own_figures(k)}/reference", {})] * 2,
    "/portion/{first_day}/{batch_id}/pot": lambda _, k: (
        [(f"/portion/{racing.begun(k)}/pot", event(gross_g="2100 g", tare_g="0"))] * 2
    ),
    "/portion/{first_day}/{batch_id}/pot/take-out": lambda c, k: (
        [(f"/portion/{racing.weighed(c, k)}/pot/take-out", event())] * 2
    ),
    "/portion/{first_day}/{batch_id}/boxes/{placement_id}": lambda c, k: (
        [(racing.box_weighed(c, k), event(net_g="320 g"))] * 2
    ),
    "/portion/{first_day}/{batch_id}/boxes/{placement_id}/take-out": lambda c, k: (
        [(f"{racing.box_weighed(c, k, twice=True)}/take-out", event())] * 2
    ),
    "/portion/{first_day}/{batch_id}/pots": lambda _, k: (
        [(f"/portion/{racing.begun(k)}/pots", {"id": str(uuid4())})] * 2
    ),
    "/portion/{first_day}/{batch_id}/pots/remove": lambda _, k: (
        [(f"/portion/{racing.two_pots(k)}/pots/remove", event())] * 2
    ),
    "/portion/{first_day}/{batch_id}/spare": lambda c, k: (
        [(f"/portion/{racing.weighed(c, k)}/spare", event(spare_g="100 g", id=str(uuid4())))] * 2
    ),
    "/portion/{first_day}/{batch_id}/spare/{box_id}/take-out": lambda c, k: (
        [(f"{racing.spare(c, k)}/take-out", event())] * 2
    ),
    "/portion/{first_day}/{batch_id}/rest": lambda c, k: (
        [(f"/portion/{racing.weighed(c, k)}/rest", event(rest_g="40 g", rest_as="tasted"))] * 2
    ),
    "/portion/{first_day}/{batch_id}/rest/take-back": lambda c, k: (
        [(f"/portion/{racing.weighed(c, k)}/rest/take-back", event(rest_as="thrown"))] * 2
    ),
    "/portion/{first_day}/{batch_id}/top-up": lambda c, k: (
        [(f"/portion/{racing.weighed(c, k)}/top-up", event(rest_g="20 g", placement=racing.other_dish(k)))] * 2
    ),
    "/portion/{first_day}/{batch_id}/top-up/{placement_id}/take-out": lambda c, k: (
        [(f"{racing.topped_up(c, k)}/take-out", event())] * 2
    ),
    "/portion/{first_day}/{batch_id}/pieces": lambda c, k: (
        [(f"/portion/{racing.weighed(c, k)}/pieces", {"pieces": "12"})] * 2
    ),
    "/portion/{first_day}/{batch_id}/mark": lambda c, k: (
        [(f"/portion/{racing.weighed(c, k)}/mark", {"eater": str(k.eater_id), "known_by": "a toothpick"})] * 2
    ),
    "/portion/{first_day}/{batch_id}/short": lambda c, k: (
        [(f"/portion/{racing.weighed(c, k)}/short", {"placement": str(racing.meals(k)[0])})] * 2
    ),
    "/portion/{first_day}/{batch_id}/fill": lambda c, k: [(f"/portion/{racing.weighed(c, k)}/fill", event())] * 2,
    "/recipes/import": lambda *_: [("/recipes/import", {"id": str(uuid4()), "file": racing.LINES.encode()})] * 2,
    "/recipes/import/{import_id}": lambda _, k: [(f"/recipes/import/{racing.import_waiting(k)}", {})] * 2,
    "/recipes/import/one": lambda *_: [("/recipes/import/one", {"id": str(uuid4()), "recipe": FOUND})] * 2,
    "/recipes/{recipe_id}": racing.same_new_recipe,
    "/recipes/{recipe_id}/autosave": lambda c, k: [autosaved(c, k)] * 2,
    "/recipes/{recipe_id}/duplicate": lambda _, k: (
        [(f"/recipes/{k.recipe_id}/duplicate", {"copy-id": str(uuid4())})] * 2
    ),
    "/recipes/{recipe_id}/archive": lambda _, k: [(f"/recipes/{k.recipe_id}/archive", {"archived": "1"})] * 2,
    "/recipes/{recipe_id}/remove-broken": lambda _, k: [(f"{racing.broken_recipe(k)}/remove-broken", {})] * 2,
    "/recipes/{recipe_id}/versions/{version}": lambda _, k: [(f"/recipes/{racing.changed(k)}/versions/1", {})] * 2,
    "/recipes/{recipe_id}/figures": lambda _, k: (
        [(f"/recipes/{k.recipe_id}/figures", {"choice": "keep", "of": racing.own_figures(k)})] * 2
    ),
    "/today/{first_day}/{meal_id}/eaten": lambda _, k: (
        [(f"/today/{MONDAY}/{racing.meals(k)[0]}/eaten", event(kind="part_eaten", grams="40"))] * 2
    ),
    "/today/{first_day}/{meal_id}/swap": lambda _, k: (
        [(f"/today/{MONDAY}/{racing.meals(k)[0]}/swap", event(other=str(racing.meals(k)[1])))] * 2
    ),
    "/today/{first_day}/{meal_id}/weighed": lambda _, k: (
        [
            (
                f"/today/{MONDAY}/{racing.meals(k)[0]}/weighed",
                event(line=str(racing.on_the_day(k)), weighed="12", ticks=f"now:{racing.meals(k)[0]}:line:oil"),
            )
        ]
        * 2
    ),
    "/today/{first_day}/undo": lambda _, k: [(f"/today/{MONDAY}/undo", {"event": racing.eaten(k)})] * 2,
    "/today/off-plan": lambda _, k: [("/today/off-plan", event(eater=str(k.eater_id), typed="cake, 350 kcal"))] * 2,
    "/today/off-plan/{noted_id}/back": lambda _, k: [(f"/today/off-plan/{racing.off_plan_noted(k)}/back", {})] * 2,
    "/today/done": lambda _, k: (
        [("/today/done", event(subject=f"thaw:{racing.meals(k)[0]}", is_done="1", day=str(MONDAY)))] * 2
    ),
    "/box/{box_id}/said": lambda _, k: (
        [(f"/box/{own_box_id(racing.to_eat(k))}/said", event(kind="part_eaten", grams="40"))] * 2
    ),
    "/box/{box_id}/swap": lambda _, k: (
        [(f"/box/{own_box_id(racing.to_eat(k))}/swap", event(other=str(racing.meals(k)[1])))] * 2
    ),
    "/box/{box_id}/move": lambda _, k: [(f"/box/{racing.packed_box(k)}/move", event(place="freezer"))] * 2,
    "/box/{box_id}/undo": lambda _, k: (
        [(f"/box/{own_box_id(racing.meals(k)[0])}/undo", {"event": racing.eaten(k)})] * 2
    ),
    "/settings/calendar": lambda *_: [("/settings/calendar", {"act": "revoke"})] * 2,
    "/store/scan": lambda _, k: [("/store/scan", event(code=str(racing.packed_box(k)), where="freezer"))] * 2,
    "/store/put-away": lambda _, k: [("/store/put-away", event(box=str(racing.packed_box(k))))] * 2,
    "/store/shelves": lambda *_: (
        [("/store/shelves", {"id": str(uuid4()), "name": "drawer", "place": "fridge", "boxes": "14"})] * 2
    ),
    "/store/shelves/{shelf_id}/away": lambda _, k: [(f"/store/shelves/{racing.shelf(k)}/away", {})] * 2,
    "/store": lambda _, k: [racing.box_in_the_house(k)] * 2,
    "/store/{row_id}/out": lambda c, k: [(f"/store/{racing.noted(c, k)}/out", event(kind="eaten", count="1"))] * 2,
    "/store/{row_id}/back": lambda c, k: [(f"/store/{racing.noted(c, k)}/back", {})] * 2,
    "/shop/{first_day}/ticks": lambda *_: [(f"{SHOP}/ticks", event(food="cabbage_raw", grams="900", price="1.40"))] * 2,
    "/shop/{first_day}/settings": lambda *_: (
        [(f"{SHOP}/settings", {"aisles": "herbs", "spare_pct": "5", "aim": "least_cost", "week_budget": "80"})] * 2
    ),
    "/shop/pantry": lambda *_: (
        [("/shop/pantry", {"id": str(uuid4()), "typed": "500 g rolled oats", "place": "cupboard"})] * 2
    ),
    "/shop/pantry/{row_id}": lambda _, k: (
        [(f"/shop/pantry/{racing.food_noted(k)}", {"grams": "120", "place": "freezer", "first": "on"})] * 2
    ),
    "/shop/{first_day}/food/{key}/packs": lambda *_: (
        [(f"{SHOP}/food/cabbage_raw/packs", {"id": str(uuid4()), "pack_g": "900", "price": "1.40"})] * 2
    ),
    "/shop/{first_day}/food/{key}/packs/{pack_id}/remove": lambda _, k: (
        [(f"{SHOP}/food/cabbage_raw/packs/{racing.pack_noted(k)}/remove", {})] * 2
    ),
    "/shop/{first_day}/food/{key}/floor": lambda *_: [(f"{SHOP}/food/cabbage_raw/floor", {"floor_g": "500"})] * 2,
    "/shop/{first_day}/food/{key}/instead": lambda _, k: (
        [(f"{SHOP}/food/{(x := racing.something_else(k))[0]}/instead", {"id": str(uuid4()), "other": x[1]})] * 2
    ),
    "/shop/{first_day}/instead/{row_id}/undo": lambda _, k: (
        [(f"{SHOP}/instead/{racing.taken_instead(k)}/undo", {})] * 2
    ),
    "/targets/counting": lambda *_: [("/targets/counting", {"traces": "leave"})] * 2,
    "/targets/{eater_id}": racing.same_new_eater,
    "/targets/{eater_id}/aside": lambda _, k: [(f"/targets/{k.eater_id}/aside", {"aside": "1"})] * 2,
    "/week/{first_day}/many": lambda _, k: (
        [(f"{THERE}/many", {"act": "row", "meals": [str(racing.meals(k)[0])], "id": str(uuid4())})] * 2
    ),
    "/week/{first_day}/capacity": lambda c, _: (
        [racing.own_form(c, THERE, f"{THERE}/capacity", fridge_boxes="9", keep_rule="usual")] * 2
    ),
    "/week/{first_day}/plan": lambda *_: [(f"{THERE}/plan", {**WISHES, "id": str(uuid4())})] * 2,
    "/week/{first_day}/plan/{job_id}/stop": lambda c, k: (
        [(f"{racing.plan_found(c, k, status='running')}/stop", {})] * 2
    ),
    "/week/{first_day}/plan/{job_id}/take": lambda c, k: (
        [(f"{racing.plan_found(c, k)}/take", {"aim": "least_cooking"})] * 2
    ),
    "/week/{first_day}/plan/{job_id}/take-out": lambda c, k: (
        [(f"{racing.plan_found(c, k, taken=True)}/take-out", {})] * 2
    ),
    "/week/{first_day}/repeat": lambda _, k: (
        [(f"{racing.emptied(k)}/repeat", {"source": str(MONDAY), "shift": "0", "id": str(uuid4())})] * 2
    ),
    "/week/{first_day}/pattern": lambda *_: [(f"{THERE}/pattern", {"pattern_name": "lean", "id": str(uuid4())})] * 2,
    "/week/{first_day}/pattern/{pattern_id}/remove": lambda c, _: (
        [(f"{THERE}/pattern/{racing.pattern(c)}/remove", {})] * 2
    ),
    "/week/{first_day}/open": lambda *_: [(f"/week/{date(2027, 3, 1)}/open", {"days": "7"})] * 2,
    "/week/{first_day}/sessions": lambda *_: [(f"{THERE}/sessions", {"starts_at": "2026-11-25T18:30"})] * 2,
    "/week/{first_day}/sessions/{session_id}/remove": lambda c, k: (
        [(f"{THERE}/sessions/{racing.session_id(c, k)}/remove", {})] * 2
    ),
    "/week/{first_day}/targets": lambda _, k: (
        [(f"{THERE}/targets", {"eater": str(k.eater_id), "energy_kcal": "+20", "id": str(uuid4())})] * 2
    ),
    "/week/{first_day}/targets/{change_id}/back": lambda _, k: (
        [(f"{THERE}/targets/{racing.target_change(k)}/back", {})] * 2
    ),
    "/week/{first_day}/place-plain": lambda _, k: (
        [(f"{THERE}/place-plain", {"gap": racing.slot(k, 6), "plain": "160 g pear", "id": str(uuid4())})] * 2
    ),
    "/week/{first_day}/place-box": lambda c, k: (
        [(f"{THERE}/place-box", {"gap": racing.slot(k, 5), "box": racing.noted(c, k), "id": str(uuid4())})] * 2
    ),
    "/week/{first_day}/place": lambda _, k: [(f"{THERE}/place", placed(k))] * 2,
    "/week/{first_day}/meals/{placement_id}": lambda _, k: (
        [(f"{THERE}/meals/{racing.meals(k)[0]}", {"servings": "1.2", "version": "1"})] * 2
    ),
    "/week/{first_day}/meals/{placement_id}/move": lambda _, k: (
        [(f"{THERE}/meals/{racing.meals(k)[0]}/move", {"to": racing.slot(k, 1), "how": "copy", "id": str(uuid4())})] * 2
    ),
    "/week/{first_day}/meals/{placement_id}/remove": lambda _, k: (
        [(f"{THERE}/meals/{racing.meals(k)[0]}/remove", {})] * 2
    ),
    "/week/{first_day}/meals/{placement_id}/restore": lambda _, k: [(f"{THERE}/meals/{taken_out(k)}/restore", {})] * 2,
    "/week/{first_day}/recipes/{recipe_id}/take": lambda _, k: [(f"{THERE}/recipes/{racing.changed(k)}/take", {})] * 2,
    "/review/{first_day}/eaten": lambda *_: [(f"{BACK}/eaten", event())] * 2,
    "/review/{first_day}/eaten/undo": lambda _, k: [(f"{BACK}/eaten/undo", {"event": racing.all_eaten(k)})] * 2,
    "/review/{first_day}/take": lambda _, k: [(f"{BACK}/take", {"proposal": racing.proposal(k)})] * 2,
    "/review/{first_day}/take/undo": lambda _, k: [(f"{BACK}/take/undo", {"proposal": racing.taken(k)})] * 2,
    "/review/{first_day}/close": lambda *_: [(f"{BACK}/close", {})] * 2,
    "/review/weight/{eater_id}": lambda _, k: [(racing.weight_log(k), {"day": str(MONDAY), "kg": "70.5"})] * 2,
    "/review/weight/{eater_id}/out": lambda _, k: [(f"{racing.weight_log(k)}/out", {"day": str(MONDAY)})] * 2,
    "/review/weight/{eater_id}/begin": lambda _, k: [(f"{racing.weight_log(k)}/begin", {})] * 2,
    "/review/weight/{eater_id}/away": lambda _, k: [(f"{racing.weight_log(k)}/away", {})] * 2,
    "/week/{first_day}/fit": lambda *_: [(f"{THERE}/fit", {"step": "5"})] * 2,
    "/week/{first_day}/fit/settle": lambda c, _: [(f"{fitted(c)}/settle", {"choice": "revert"})] * 2,
}
"""By the route, which is what `test_every_route_that_writes_is_raced` counts with."""
OTHERWISE = {
    "/first-run",
    "/sign-in",
    "/recover",  # these four: tests/web/test_people.py
    "/join/{invitation}",
    "/account/leave",
    "/people/{user_id}/hand-over",
    "/people/delete-household",
    "/account/browsers/{key}/sign-out",  # the door, below
    "/account/password",
    "/sign-in/passkey/ask",  # these five: tests/services/test_passkeys.py
    "/sign-in/passkey",
    "/account/passkeys/ask",
    "/account/passkeys",
    "/account/passkeys/{key}/remove",
    "/recipes/{recipe_id}/undo",  # done twice is not done once: among the different ones
}
WRITES_NOTHING = {
    "/foods/label/compute",
    "/scale/tell",
    "/portion/{first_day}/labels/print",
    "/recipes/paste",
    "/recipes/steps",
    "/recipes/{recipe_id}/compute",
    "/recipes/{recipe_id}/scale",
    "/recipes/{recipe_id}/fit-lines",
    "/recipes/{recipe_id}/fit",
    "/recipes/{recipe_id}/swap",
    "/recipes/{recipe_id}/read",
    "/targets/{eater_id}/compute",
}
CSV = b"name,kcal,protein_g\nRusk,380,9\n"


def autosaved(cook: Cook, kitchen: Kitchen) -> Sent:
    page = f"/recipes/{kitchen.recipe_id}"
    url, fields = racing.form_as(cook, page, page, {"Turkey pot": f"Pot {uuid4().hex[:4]}"})
    return f"{url}/autosave", fields


def taken_out(kitchen: Kitchen) -> UUID:
    meal = racing.meals(kitchen)[0]
    placing.take_out_meal(kitchen.caller, meal)
    return meal


def fitted(cook: Cook) -> str:
    cook.post(f"{THERE}/fit", {"step": "5"})
    return f"{THERE}/fit"


DIFFERENT: dict[str, Pairing] = {
    "move against remove": lambda _, k: [
        (f"{THERE}/meals/{racing.meals(k)[0]}/move", {"to": racing.slot(k, 1)}),
        (f"{THERE}/meals/{racing.meals(k)[1]}/remove", {}),
    ],
    "two moves that change places": lambda _, k: [
        (f"{THERE}/meals/{racing.meals(k)[0]}/move", {"to": racing.slot(k, 1)}),
        (f"{THERE}/meals/{racing.meals(k)[1]}/move", {"to": racing.slot(k, 0)}),
    ],
    "two meals into one slot": lambda _, k: [
        (f"{THERE}/place", placed(k)) for _ in range(2)
    ],
    "two run sheets": lambda c, k: [
        (racing.sheet(c, k), {"id": str(uuid4()), "burners": burners}) for burners in ("1", "2")
    ],
    "two phones tick a step": lambda c, k: [
        (f"{racing.cooking_now(c, k)}/steps", event(step=f"{k.recipe_id}/box", kind=kind)) for kind in ("done", "more")
    ],
    "two plans": lambda *_: [(f"{THERE}/plan", {**WISHES, "id": str(uuid4())}) for _ in range(2)],
    "remove against put back": lambda _, k: [
        (f"{THERE}/meals/{racing.meals(k)[0]}/remove", {}), (f"{THERE}/meals/{racing.meals(k)[0]}/restore", {}),
    ],
    "all pinned against all removed": lambda _, k: [
        (f"{THERE}/many", {"act": act, "meals": [str(m) for m in racing.meals(k)]}) for act in ("pin", "remove")
    ],
    "undone twice at once": lambda _, k: [(f"/recipes/{racing.changed(k)}/undo", {})] * 2,
    "facts of a food nobody had": lambda *_: [
        ("/foods/bulgur_dry/facts", {"price": price}) for price in ("1.20", "1.30")
    ],
    "two labels": lambda *_: [racing.label(str(uuid4())) for _ in range(2)],
    "vessels": lambda *_: [
        ("/cook/kitchen", {"vessel": (v := str(uuid4())), f"vessel-{v}-name": "pot", f"vessel-{v}-kind": "pot",
                           f"vessel-{v}-volume_ml": "4", f"vessel-{v}-count": "1"})
        for _ in range(2)
    ],
    "settings": lambda c, _: [
        (f"{THERE}/capacity", {"fridge_boxes": "9", "freezer_boxes": "9", "keep_rule": "usual"}),
        racing.own_form(c, "/settings", "/settings", convention="us"),
    ],
    "two phones tick the same food": lambda *_: [
        (f"{SHOP}/ticks", event(food="cabbage_raw", grams=grams)) for grams in ("900", "1800")
    ],
    "ticked while it is taken off": lambda *_: [
        (f"{SHOP}/ticks", event(food="cabbage_raw", kind=kind)) for kind in ("bought", "not_there")
    ],
    "two things taken instead": lambda _, k: [
        (f"{SHOP}/food/{racing.food_of(k)}/instead", {"id": str(uuid4()), "other": other})
        for other in ("parsnip_raw", "swede_raw")
    ],
    "a box eaten on two phones": lambda _, k: [
        (f"/today/{MONDAY}/{meal}/eaten", event(kind=kind)) for meal in [racing.to_eat(k)] for kind in ("eaten", "half")
    ],
    "box out and back": lambda c, k: [(f"/store/{racing.noted(c, k)}/{act}", {}) for act in ("out", "back")],
    "a session goes while a batch of it starts": lambda c, k: [
        (f"{THERE}/sessions/{racing.session_id(c, k)}/remove", {}), (f"/cook/{racing.batch(k)}/start", {}),
    ],
    "portions fitted while one is changed": lambda _, k: [
        (f"{THERE}/fit", {"step": "5"}), (f"{THERE}/meals/{racing.meals(k)[0]}", {"servings": "1.2", "version": "1"}),
    ],
    "a recipe is saved while it is put aside": lambda c, k: [
        racing.form_as(c, p := f"/recipes/{k.recipe_id}", p, {"Turkey pot": f"Pot {uuid4().hex[:4]}"}),
        (f"/recipes/{k.recipe_id}/archive", {"archived": "0"}),
    ],
}  # fmt: skip


CROWDED = (
    "/foods/files",
    "/people/invite",
    "/archive/bring",
    "/recipes/import",
    "a recipe is saved while it is put aside",
)


@pytest.fixture
def kitchen(household: Caller) -> Kitchen:
    return furnish(household, 1.5, days=4)


@pytest.fixture(autouse=True)
def no_planner(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(process, "launch", lambda *_: None)


def test_every_route_that_writes_is_raced(client: TestClient) -> None:
    assert isinstance(client.app, FastAPI)
    routes = {path for method, path in routes_of(client.app) if method == "POST"}
    raced = REPEATED.keys() | OTHERWISE - {"/sign-out", "/account/sign-out-everywhere"}
    assert routes == raced | WRITES_NOTHING
    assert not raced & WRITES_NOTHING


@pytest.mark.parametrize("path", REPEATED)
def test_a_repeated_send_answers_like_the_first(cook: Cook, kitchen: Kitchen, path: str) -> None:
    for _ in range(PAIRS):
        sent = REPEATED[path](cook, kitchen)
        assert compile_path(path)[0].match(sent[0][0])
        first, second = race(cook, *sent)
        assert first == second
        assert first[0] in (200, 303)


@pytest.mark.parametrize("name", DIFFERENT)
def test_two_writers_at_once_are_both_answered(cook: Cook, kitchen: Kitchen, name: str) -> None:
    for _ in range(PAIRS):
        if len(racing.meals(kitchen)) < 2:
            break  # all were taken out
        statuses = [status for status, _ in race(cook, *DIFFERENT[name](cook, kitchen))]
        assert set(statuses) <= {303, 404, 409, 422}
        assert 303 in statuses


@pytest.mark.parametrize("name", CROWDED)
def test_eight_hands_at_once_are_all_answered(cook: Cook, kitchen: Kitchen, name: str) -> None:
    """Those that begin a household's counts, let go of what has run out, or want its row for themselves."""
    pairing = REPEATED.get(name) or DIFFERENT[name]
    statuses = {status for status, _ in race(cook, *list(pairing(cook, kitchen)) * 4)}
    assert statuses & {200, 303}
    assert statuses <= {200, 303, 404, 409, 422}


def test_the_same_entry_with_another_weight_is_told(cook: Cook, kitchen: Kitchen) -> None:
    there, line_id = racing.batch(kitchen), racing.line(kitchen)
    for n in range(PAIRS):
        event = str(uuid4())
        url = f"/cook/{there}/lines/{line_id}"
        sent = [(url, {"net": f"{1100 + n} g", "event": event}), (url, {"net": f"{1200 + n} g", "event": event})]
        assert sorted(status for status, _ in race(cook, *sent)) == [303, 409]
        with kitchen.caller.transaction() as session:
            kept = session.scalars(select(WeighingRow).where(WeighingRow.id == UUID(event))).all()
            assert len(kept) == 1
        again = cook.client.post(url, data={"csrf": cook.csrf, "net": "12 g", "event": event})
        assert again.status_code == 409
        assert f"saved as {float(kept[0].net_g or 0):,.1f} g already" in text_of(again.text)


def test_two_sign_ins_at_once(cook: Cook, kitchen: Kitchen, household: Caller) -> None:
    name = name_of(household.database, household)
    page = forms_of("/sign-in", cook.client.get("/sign-in").text)["/sign-in"]
    door = dict(page.fields)["csrf"]
    for _ in range(3):  # a fifth wrong one would have to wait, and the right one from the same browser with it
        good, bad = race(
            cook,
            ("/sign-in", {"csrf": door, "name": name, "password": PASSWORD}),
            ("/sign-in", {"csrf": door, "name": name, "password": "not-the-right-one"}),
        )
        assert good[0] == 303
        assert bad[0] in (422, 429)


def test_two_first_runs_make_one_household(database: Database, monkeypatch: pytest.MonkeyPatch) -> None:
    boat, start = f"Lockside {uuid4().hex[:8]}", Barrier(4)

    def boats() -> int:
        with database.accounts() as session:
            return session.scalar(select(func.count(Household.id)).where(Household.name == boat)) or 0

    monkeypatch.setattr(people, "has_account", lambda _: boats() > 0)  # the others here are no accounts of this boat

    def sign_up(n: int) -> bool:
        start.wait(60)
        try:
            people.sign_up(database, boat, f"{boat} {n}", PASSWORD)
        except InvalidInputs:
            return False
        return True

    with ThreadPoolExecutor(4) as hands:
        assert sorted(hands.map(sign_up, range(4))) == [False, False, False, True]
    assert boats() == 1


def test_of_two_new_passwords_one_counts_and_the_other_is_told(cook: Cook, household: Caller) -> None:
    asked = [("/account/password", {"old": PASSWORD, "new": f"{PASSWORD} {n}"}) for n in range(2)]
    answers = [status for status, _ in race(cook, *asked)]
    assert sorted(answers) == [303, 422]
    here = accounts.Door("10.0.0.8", "", "")
    name = name_of(household.database, household)
    assert accounts.sign_in(household.database, name, asked[answers.index(303)][1]["new"], here, free=5, days=9)


def test_a_browser_is_signed_out_twice_at_once(cook: Cook, household: Caller) -> None:
    here = accounts.Door("10.0.0.9", "another browser", "")
    accounts.sign_in(household.database, name_of(household.database, household), PASSWORD, here, free=5, days=9)
    there = next(a for a in forms_of("/account", cook.get("/account")) if a.startswith("/account/browsers/"))
    first, second = race(cook, *[(there, {})] * 2)
    assert first == second == (303, "/account")
    assert there not in cook.get("/account")


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
        return {
            "vessel": row_id,
            f"{p}-name": name,
            f"{p}-kind": "pot",
            f"{p}-volume_ml": "4",
            f"{p}-count": "1",
            f"{p}-version": version,
        }

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
