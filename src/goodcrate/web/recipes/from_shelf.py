"""The starter shelf: recipes of our own, taken one by one or all at once, and on to a planned week."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from fastapi import Request
from fastapi.responses import Response

from goodcrate.core.foods.food import ALLERGEN_WORDS
from goodcrate.core.ground.wording import Saying
from goodcrate.core.targets.excluding import made_of
from goodcrate.core.targets.slot import NO_MEAL
from goodcrate.services.recipes import library, starter_shelf
from goodcrate.services.recipes.library import RecipePage
from goodcrate.services.recipes.starter_shelf import ShelfOffer
from goodcrate.services.targets import household_eaters
from goodcrate.services.week.weeks import new_id
from goodcrate.web.drawing import Share, energy_bar
from goodcrate.web.pages import go, page
from goodcrate.web.recipes.address import router
from goodcrate.web.recipes.library import Shelved, shelved
from goodcrate.web.security import Posted, Signed, text

ALL = "all"
"""What the button that takes everything sends in place of a key."""
GROUPS: Mapping[str, tuple[str, frozenset[str]]] = {
    "breakfast": (Saying("Breakfasts"), frozenset({"breakfast"})),
    "snack": (Saying("Snacks"), frozenset({"snack"})),
    "sauce": (Saying("Sauces"), frozenset({NO_MEAL})),
    "cold": (Saying("Cold boxes that travel"), frozenset({"cold", "travels"})),
    "hot": (Saying("Hot meals"), frozenset()),
}
ORDER = ("breakfast", "cold", "hot", "snack", "sauce")


@dataclass(frozen=True)
class ShelfCard:
    """An offer as it is shown: figures of a serving, what it is made of, its time and keeping."""

    offer: ShelfOffer
    facts: Shelved
    made_of: str
    bar: tuple[Share, ...]


def _card(offer: ShelfOffer) -> ShelfCard:
    saved = RecipePage(offer.recipe, offer.serving, offer.note, offer.tags, 0, "")
    return ShelfCard(offer, shelved(saved), made_of(offer.recipe), energy_bar(offer.serving.tally))


def _group_of(tags: Sequence[str]) -> str:
    return next(key for key, (_, wanted) in GROUPS.items() if wanted <= set(tags))


@router.get("/shelf")
def show_shelf(request: Request, visitor: Signed) -> Response:
    """The shelf by kinds of meal; what an eater must not get stands apart with the reason."""
    cards = [_card(offer) for offer in starter_shelf.offers(visitor.caller)]
    suiting = [c for c in cards if not c.offer.why_not]
    by_group: dict[str, list[ShelfCard]] = {key: [] for key in ORDER}
    for card in suiting:
        by_group[_group_of(card.offer.tags)].append(card)
    return page(
        request,
        visitor,
        "recipes/shelf.html",
        "recipes",
        groups=[(GROUPS[key][0], found) for key, found in by_group.items() if found],
        unsuited=[c for c in cards if c.offer.why_not],
        whole=len(cards),
        open_count=sum(not c.offer.is_taken for c in suiting),
        has_eaters=bool(household_eaters.list_eaters(visitor.caller)),
        has_recipes=bool(library.list_recipes(visitor.caller)),
        allergens=ALLERGEN_WORDS,
        new_id=new_id(),
        ALL=ALL,
    )


@router.post("/shelf")
def take_from_shelf(request: Request, visitor: Signed, form: Posted) -> Response:
    """Take one recipe, or all that suit."""
    wanted = text(form, "take")
    if wanted == ALL:
        starter_shelf.take_all(visitor.caller)
    else:
        starter_shelf.take(visitor.caller, [wanted])
    return go("/recipes/shelf")
