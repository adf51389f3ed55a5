"""Recipes in and out as files: what stands in one, line by line, then taken in; many at once with progress."""

import time
from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass, replace
from datetime import timedelta
from uuid import UUID, uuid4, uuid5

from pydantic import TypeAdapter
from sqlalchemy import select

from goodcrate.core.foods.food import IMPORTED, Food
from goodcrate.core.foods.measures import FactMissing
from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.core.ground.wording import say
from goodcrate.core.ground.writing import shown
from goodcrate.core.recipes.component import ALL_OF_IT, USES, Component, PendingLine, flags_of
from goodcrate.core.recipes.cooked_weight import expected_cooked_weight
from goodcrate.core.recipes.recipe import Recipe
from goodcrate.db.foods import FoodRow
from goodcrate.db.recipes import RecipeImportRow, RecipeRow
from goodcrate.db.session import HouseholdSession
from goodcrate.db.targets import EaterRow
from goodcrate.formats.recipe_csv import read_lines
from goodcrate.formats.recipe_document import PortableRecipe, recipe_from
from goodcrate.formats.recipe_jsonld import LARGEST_TEXT, FoundRecipe, find_recipes, found_steps
from goodcrate.formats.reference import reference_foods
from goodcrate.services.calling import Caller, add_once, existing, let_go, utc_now
from goodcrate.services.foods.own_foods import Measuring, measuring
from goodcrate.services.recipes.pasting import MatchedLine, Matcher
from goodcrate.services.recipes.recipe_input import (
    ChangeInput,
    ComponentInput,
    LineInput,
    RecipeInput,
    VariantInput,
    check_recipe,
)
from goodcrate.services.recipes.saving import put_recipe

ADDED, REFUSED = "added", "refused"
KEPT_FOR = timedelta(days=1)
CHUNK = 10
"""So many recipes of an upload are one transaction."""
CHUNK_SECONDS = 0.6
"""How long one step of an import works before it reports: the page asks for the next one."""


@dataclass(frozen=True)
class ReviewedLine:
    """One line of a found recipe: the food it was taken for, its grams, and why it waits for a yes (empty: sure)."""

    text: str
    component: str
    matched: MatchedLine
    line: LineInput | None
    doubt: str


@dataclass(frozen=True)
class Reviewed:
    """A found recipe, ready to be taken in."""

    found: FoundRecipe
    input: RecipeInput
    lines: tuple[ReviewedLine, ...]
    foods: Mapping[str, Food]

    @property
    def sure(self) -> int:
        """How many lines were understood."""
        return sum(1 for line in self.lines if not line.doubt)


def read_file(data: bytes, name: str = "") -> list[FoundRecipe]:
    """The recipes of an uploaded file: CSV by its name, else JSON-LD or HTML that holds it.

    Raises:
        InvalidInput: when it cannot be read.
    """
    if len(data) > LARGEST_TEXT:
        raise InvalidInput(
            "file",
            say("{data} MB are more than we take.", data=shown(len(data) / 1000000.0, grouped=False)),
            say("At most 12 MB: split it."),
        )
    if name.lower().endswith(".csv"):
        return read_lines(data)
    try:
        return find_recipes(data.decode("utf-8-sig"))
    except UnicodeDecodeError:
        raise InvalidInput("file", say("This is no UTF-8 text."), say("Save the file as UTF-8, or as .csv.")) from None


def review(caller: Caller, found: FoundRecipe, recipe_id: UUID | None = None) -> Reviewed:
    """What a found recipe would become, nothing saved: sure lines weighed, the others kept as they stand.

    A recipe that came from us is read back whole.

    Raises:
        InvalidInputs: when our own document inside it cannot be used.
    """
    with caller.transaction() as session:
        matcher = Matcher(session)
        if found.document is not None:
            return Reviewed(found, _own_recipe(session, found, recipe_id or uuid4()), (), {})
        matched = [(name, matcher.match_lines("\n".join(lines))) for name, lines in found.lines]
    keys = {m.food.key for _, ms in matched for m in ms if m.food is not None}
    return _reviewed(found, matched, measuring(caller, keys), recipe_id or uuid4())


def _reviewed(
    found: FoundRecipe, matched: Sequence[tuple[str, list[MatchedLine]]], measures: Measuring, recipe_id: UUID
) -> Reviewed:
    components, reviewed = [], []
    for name, lines in matched:
        done = [weigh_matched(m, measures, name) for m in lines]
        reviewed += done
        pending = tuple(
            PendingLine(
                str(uuid4()),
                r.text[:200],
                r.doubt[:200],
                r.matched.food.key if r.matched.food else "",
                r.matched.amount_text[:60],
            )
            for r in done
            if r.line is None
        )
        sure = tuple(r.line for r in done if r.line is not None)
        components.append(ComponentInput(uuid4(), (name or ALL_OF_IT)[:80], sure, pending=pending))
    note = found.note
    typed = RecipeInput(
        recipe_id,
        found.name,
        found.servings or 4.0,
        tuple(components) or (ComponentInput(uuid4(), ALL_OF_IT),),
        note,
        found.tags,
        version=0,
        facts={},
        steps=found_steps(found),
        variants=(),
        origin=found.origin,
    )
    return Reviewed(found, typed, tuple(reviewed), measures.foods)


def weigh_matched(matched: MatchedLine, measures: Measuring, component: str = "") -> ReviewedLine:
    """A matched line in grams; one that is unsure, or cannot be weighed yet, has no line and says why."""
    text, doubt = matched.text, "; ".join(matched.doubts)
    food = matched.food
    if doubt or food is None or food.key not in measures.foods:
        return ReviewedLine(text, component, matched, None, doubt or say("no such food is known"))
    if not matched.amount_text and matched.is_to_taste:
        line = LineInput(uuid4(), food.key, 0.0, "eye", is_optional=matched.is_optional, is_to_taste=True)
        return ReviewedLine(text, component, matched, line, "")
    if not matched.amount_text:
        return ReviewedLine(text, component, matched, None, say("no amount is given"))
    try:
        typed = matched.typed
        weighed = measures.weigh(typed, measures.foods[food.key])
    except FactMissing as missing:
        return ReviewedLine(text, component, matched, None, missing.ask)
    except InvalidInput as fault:
        return ReviewedLine(text, component, matched, None, fault.message)
    plain = typed.kind in (None, "mass") and typed.low == typed.high and not typed.state and not typed.is_by_eye
    line = LineInput(
        uuid4(),
        food.key,
        weighed.amount.grams,
        weighed.amount.measure,
        None if plain else matched.amount_text[:60],
        None if plain and weighed.amount.measure == "weighed" else weighed.amount.standard_error_g,
        is_optional=matched.is_optional,
        is_to_taste=matched.is_to_taste,
    )
    return ReviewedLine(text, component, matched, line, "")


# --- our own document, read back


def _own_recipe(session: HouseholdSession, found: FoundRecipe, recipe_id: UUID) -> RecipeInput:
    """A recipe of our own format as this household would type it: new ids, foods of its own, eaters by id or name."""
    portable = recipe_from(found.document or {})
    return input_of_portable(session, portable, recipe_id, found.origin)


def input_of_portable(
    session: HouseholdSession, portable: PortableRecipe, recipe_id: UUID, origin: str = ""
) -> RecipeInput:
    """A portable recipe with ids and foods of this household; inside the caller's transaction.

    A component that belongs to another recipe becomes this one's own: that other recipe may not be here.
    """
    recipe = portable.recipe
    keys = _food_keys(session, recipe)
    ids = {line.key: uuid5(recipe_id, f"line:{line.key}") for line in recipe.lines}
    component_ids = {c.key: uuid5(recipe_id, f"component:{c.key}") for c in recipe.components}
    components = [_component_input(c, recipe, component_ids[c.key], ids, keys) for c in recipe.components]
    steps = tuple(
        replace(s, component_key=str(component_ids[s.component_key]) if s.component_key in component_ids else "")
        for s in recipe.steps
    )
    return RecipeInput(
        recipe_id,
        recipe.name,
        recipe.servings,
        tuple(components),
        portable.note,
        portable.tags,
        version=0,
        facts={},
        steps=steps,
        variants=_variant_inputs(session, recipe, recipe_id, ids, keys),
        origin=origin,
    )


def _component_input(
    c: Component, recipe: Recipe, component_id: UUID, ids: Mapping[str, UUID], keys: Mapping[str, str]
) -> ComponentInput:
    factor = _borrowed_factor(c, recipe)
    lines = tuple(
        LineInput(
            ids[x.key],
            keys[x.food.key],
            round(x.amount.grams * factor, 1),
            x.amount.measure,
            (x.amount.typed or None) if factor == 1 else None,
            x.amount.standard_error_g * factor,
            uptake=x.uptake,
            use=x.use if x.use in USES else "",
            **flags_of(x),
        )
        for x in c.lines
    )
    return ComponentInput(
        component_id,
        c.name[:80],
        lines,
        None if c.cooked_g is None else round(c.cooked_g * factor, 1),
        replace(c.storage),
        c.vessel,
        minimum_ml=c.minimum_ml,
        pending=tuple(replace(p, key=str(uuid4())) for p in c.pending),
        cooked_as=c.cooked_as,
    )


def _variant_inputs(
    session: HouseholdSession, recipe: Recipe, recipe_id: UUID, ids: Mapping[str, UUID], keys: Mapping[str, str]
) -> tuple[VariantInput, ...]:
    """The variants whose eaters are of this household, by their ids or their names."""
    eaters = {name: e.id for e in session.scalars(select(EaterRow)) for name in (str(e.id), e.name)}
    variants = []
    for v in recipe.variants:
        mine = tuple(eaters[e] for e in v.eater_keys if e in eaters)
        changes = tuple(
            ChangeInput(ids[x.line_key], keys[x.food.key] if x.food else "", x.grams)
            for x in v.changes
            if x.line_key in ids
        )
        if mine and changes:
            variants.append(VariantInput(uuid5(recipe_id, f"variant:{v.key}"), v.name, mine, changes))
    return tuple(variants)


def _borrowed_factor(component: Component, recipe: Recipe) -> float:
    """By how much a borrowed component's lines are multiplied to make what this recipe serves of it."""
    if component.serving_g is None or not component.lines:
        return 1.0
    whole = expected_cooked_weight(component).grams
    return component.serving_g * recipe.servings / whole if whole > 0 else 1.0


def _food_keys(session: HouseholdSession, recipe: Recipe) -> dict[str, str]:
    """This household's key for every food of a portable recipe: its own when it has the same, else taken in anew."""
    foods = {line.food.key: line.food for line in recipe.lines}
    foods |= {c.food.key: c.food for v in recipe.variants for c in v.changes if c.food is not None}
    keys = {}
    for key, food in foods.items():
        if reference_foods().get(key) is not None:
            keys[key] = key
            continue
        rows = session.scalars(select(FoodRow).where(FoodRow.name == food.name)).all()
        same = next((row for row in rows if row.value().composition == food.composition), None)
        if same is None:
            row_id = uuid5(session.household_id, f"food of a recipe:{key}:{food.name}")
            same = FoodRow(id=row_id, source_kind=IMPORTED, figures_at=utc_now())
            same.put(replace(food, barcode=None, source=(f"Imported: {food.source}")[:160]))
            if not add_once(session, same):
                same = existing(session, FoodRow, row_id, "food")
        keys[key] = same.key
    return keys


# --- taking in


def take_in(caller: Caller, found: FoundRecipe, recipe_id: UUID) -> UUID:
    """Save a found recipe under an id; lines that are unsure stay in it as they stood. Sending it twice saves one.

    Raises:
        InvalidInputs: naming what cannot be used.
    """
    typed = review(caller, found, recipe_id).input
    check_recipe(typed)
    with caller.transaction() as session:
        put_recipe(session, typed)
    return typed.id


@dataclass(frozen=True)
class Progress:
    """How far an upload has come, and what became of each recipe so far."""

    id: UUID
    name: str
    total: int
    done: int
    report: tuple[Mapping[str, object], ...]

    @property
    def is_finished(self) -> bool:
        """Whether every recipe was looked at."""
        return self.done >= self.total


def upload(caller: Caller, import_id: UUID, name: str, found: Sequence[FoundRecipe]) -> None:
    """Keep an upload of many recipes; `advance` then takes them in step by step. Sending it twice keeps one."""
    with caller.transaction() as session:
        let_go(session, RecipeImportRow, RecipeImportRow.uploaded_at < utc_now() - KEPT_FOR)
        row = RecipeImportRow(
            id=import_id,
            name=name[:160],
            recipes=[asdict(f) for f in found],
            total=len(found),
            done=0,
            report=[],
            uploaded_at=utc_now(),
        )
        add_once(session, row)


def progress(caller: Caller, import_id: UUID) -> Progress:
    """How far an upload is.

    Raises:
        NotFound: when the household has no such upload.
    """
    with caller.transaction() as session:
        row = existing(session, RecipeImportRow, import_id, "upload")
        return Progress(row.id, row.name, row.total, row.done, tuple(row.report))


def advance(caller: Caller, import_id: UUID, seconds: float = CHUNK_SECONDS) -> Progress:
    """Take in the next recipes of an upload for about so long. It may stop at any point and go on where it was.

    Raises:
        NotFound: when the household has no such upload.
    """
    until = time.monotonic() + seconds
    while True:
        with caller.transaction() as session:
            row = session.scalars(
                select(RecipeImportRow).where(RecipeImportRow.id == import_id).with_for_update()
            ).one_or_none()
            if row is None:
                row = existing(session, RecipeImportRow, import_id, "upload")
            if row.done >= row.total:
                return Progress(row.id, row.name, row.total, row.done, tuple(row.report))
            chunk = [found_of(x) for x in row.recipes[row.done : row.done + CHUNK]]
            matcher = Matcher(session)
            report = [_taken(session, caller, matcher, import_id, row.done + n, f) for n, f in enumerate(chunk)]
            row.report = [*row.report, *report]
            row.done += len(chunk)
            now = Progress(row.id, row.name, row.total, row.done, tuple(row.report))
        if now.is_finished or time.monotonic() >= until:
            return now


def found_of(stored: Mapping[str, object]) -> FoundRecipe:
    """A found recipe as it was kept, or as a page sent it back.

    Raises:
        ValueError: when it is no such recipe, or larger than one that was found.
    """
    found = _FOUND.validate_python(stored)
    texts = [found.name, found.note, found.origin, *found.tags, *found.notices, *(t for t, _ in found.steps)]
    texts += [text for name, lines in found.lines for text in (name, *lines)]
    if max(map(len, texts)) > LONGEST_TEXT or len(texts) > MOST_TEXTS:
        raise ValueError("larger than any recipe that was found")
    if found.servings is not None and not 0.5 <= found.servings <= 100:
        raise ValueError("no number of servings")
    return found


_FOUND = TypeAdapter(FoundRecipe)
LONGEST_TEXT, MOST_TEXTS = 4000, 2000


def _taken(
    session: HouseholdSession, caller: Caller, matcher: Matcher, import_id: UUID, n: int, found: FoundRecipe
) -> dict[str, object]:
    """One recipe of an upload, saved or refused, in its own nested transaction."""
    recipe_id = uuid5(import_id, f"recipe:{n}")
    said: dict[str, object] = {"name": found.name, "id": str(recipe_id), "verdict": ADDED, "unsure": 0, "why": ""}
    if session.scalar(select(RecipeRow.id).where(RecipeRow.id == recipe_id)) is not None:
        return said | {"why": say("already taken in")}
    try:
        with session.begin_nested():
            if found.document is not None:
                typed = _own_recipe(session, found, recipe_id)
            else:
                matched = [(name, matcher.match_lines("\n".join(lines))) for name, lines in found.lines]
                keys = {m.food.key for _, ms in matched for m in ms if m.food is not None}
                typed = _reviewed(found, matched, matcher.measuring(keys), recipe_id).input
            check_recipe(typed)
            put_recipe(session, typed)
    except InvalidInputs as refused:
        return said | {"verdict": REFUSED, "why": " ".join(f"{f.field}: {f.message}" for f in refused.faults[:3])}
    except InvalidInput as refused:
        return said | {"verdict": REFUSED, "why": refused.message}
    return said | {"unsure": sum(len(c.pending) for c in typed.components)}
