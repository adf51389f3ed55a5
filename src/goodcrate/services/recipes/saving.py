"""Recipes saved: what is typed becomes rows, with earlier versions kept; put aside, and copied."""

from collections.abc import Mapping
from dataclasses import replace
from uuid import UUID, uuid5

from sqlalchemy import select, update
from sqlalchemy.orm.attributes import set_committed_value

from goodcrate.core.foods.food import largest_plausible_g
from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.core.ground.wording import say
from goodcrate.core.ground.writing import shown
from goodcrate.core.recipes.component import flags_of
from goodcrate.core.recipes.variants import changed_components
from goodcrate.db.accounts import Household
from goodcrate.db.base import grams
from goodcrate.db.foods import FoodRow, count_stamp
from goodcrate.db.recipes import ComponentRow, LineRow, RecipePastRow, RecipeRow, VariantChangeRow, stored_step
from goodcrate.db.session import HouseholdSession
from goodcrate.services.calling import Caller, NotFound, StaleWrite, add_once, existing, utc_now
from goodcrate.services.foods.labels import learn_facts
from goodcrate.services.foods.own_foods import foods_by_key
from goodcrate.services.recipes.recipe_input import (
    Around,
    ComponentInput,
    LineInput,
    RecipeInput,
    as_document,
    check_recipe,
    input_of,
    recipe_of,
)


def save_recipe(caller: Caller, typed: RecipeInput) -> int:
    """Save a new or changed recipe and return its version. Sending a new recipe twice saves one.

    What was there before is kept under its version, for undo and for weeks that were planned with it.

    Raises:
        InvalidInputs: naming every field that cannot be used.
        NotFound: for a food nobody knows, or a changed recipe the household does not have.
        StaleWrite: when somebody saved a newer version in the meantime.
    """
    check_recipe(typed)
    with caller.transaction() as session:
        return put_recipe(session, typed)


def put_recipe(session: HouseholdSession, typed: RecipeInput) -> int:
    """Save a checked recipe inside the caller's transaction; see `save_recipe`.

    Raises:
        InvalidInputs: naming every field that cannot be used.
        NotFound: for a food nobody knows, or a changed recipe the household does not have.
        StaleWrite: when somebody saved a newer version in the meantime.
    """
    session.execute(select(Household.id).where(Household.id == session.household_id).with_for_update())  # one at a time
    there = session.find(RecipeRow, typed.id)
    if there is None and typed.version:
        raise NotFound("recipe")
    if there is None:
        row = RecipeRow(id=typed.id, version=1, all_components=[], changes=[])
        _fill_head(row, typed)
        session.add(row)
        session.flush()
    else:
        row = there
        is_own_page = bool(typed.page) and row.last_page == typed.page
        if row.version != typed.version and typed.version and not is_own_page:
            raise StaleWrite("recipe", row.version)
        if (is_own_page and typed.edit < row.last_edit) or (not typed.version and not is_own_page):
            return row.version  # typed before what is saved already, or sent again
        typed = replace(typed, version=row.version)
    foods = foods_by_key(session, typed.food_keys)
    _check_plausible(typed, foods)
    _check_used(session, typed)
    learn_facts(session, foods, typed.facts)
    before = as_document(input_of(row)) if typed.version else {}
    if typed.version:
        _fill_head(row, typed)
    _put_components(session, row, typed, foods)
    session.flush()
    _put_variants(session, row, typed, foods)
    if typed.version and before != as_document(input_of(row)) | {"version": typed.version}:
        row.version = typed.version + 1  # components changed, the recipe's own row perhaps not
        _keep_past(session, row.id, typed.version, before)
    session.flush()
    _note_writer(session, row, typed)
    if typed.version and _is_used_elsewhere(session, row):
        count_stamp(session)
        session.flush()
    return row.version


def _note_writer(session: HouseholdSession, row: RecipeRow, typed: RecipeInput) -> None:
    """Note whose page wrote last; that is no change of the recipe, so its version stays."""
    written = {"last_page": typed.page, "last_edit": typed.edit}
    session.execute(update(RecipeRow).where(RecipeRow.id == row.id).values(**written))
    for name, value in written.items():
        set_committed_value(row, name, value)


def _fill_head(row: RecipeRow, typed: RecipeInput) -> None:
    row.name, row.servings, row.note, row.tags = typed.name, typed.servings, typed.note, list(typed.tags)
    row.origin = typed.origin[:200]
    row.steps = [stored_step(s) for s in typed.steps]
    row.variants = [{"key": str(v.id), "name": v.name, "eaters": [str(e) for e in v.eater_ids]} for v in typed.variants]


KEEP_PAST = 60
"""So many earlier versions of a recipe are kept for undo; those a week was planned with are kept longer."""


def _keep_past(session: HouseholdSession, recipe_id: UUID, version: int, document: dict[str, object]) -> None:
    row_id = uuid5(recipe_id, f"version:{version}")
    add_once(
        session, RecipePastRow(id=row_id, recipe_id=recipe_id, version=version, document=document, saved_at=utc_now())
    )


def _is_used_elsewhere(session: HouseholdSession, row: RecipeRow) -> bool:
    ids = [c.id for c in row.all_components]
    return bool(ids and session.scalar(select(ComponentRow.id).where(ComponentRow.used_component_id.in_(ids)).limit(1)))


def _check_used(session: HouseholdSession, typed: RecipeInput) -> None:
    """A recipe serves other recipes' own components: not its own, and not one that is borrowed itself."""
    faults = []
    for c in typed.components:
        if c.used_component_id is None:
            continue
        row = session.find(ComponentRow, c.used_component_id)
        place = f"component-{c.id}-used"
        if row is None or row.variant_id is not None:
            faults.append(
                InvalidInput(place, say("There is no such component any more."), say("Take it out, or choose another."))
            )
        elif row.recipe_id == typed.id:
            faults.append(InvalidInput(place, say("A recipe cannot use its own component: that goes in a circle.")))
        elif row.used_component_id is not None:
            faults.append(
                InvalidInput(place, say("That one is borrowed itself."), say("Use it from the recipe it belongs to."))
            )
    if faults:
        raise InvalidInputs(faults)


def _put_components(session: HouseholdSession, row: RecipeRow, typed: RecipeInput, foods: dict[str, FoodRow]) -> None:
    """Write the typed components; those that are gone are retired, for batches and weeks still point there."""
    known = {c.id: c for c in row.all_components}
    _refuse_strangers(session, ComponentRow, {c.id for c in typed.components} - known.keys())
    wanted = [c.id for c in typed.components]
    for place, c in enumerate(typed.components):
        component = known.get(c.id)
        if component is None:
            component = ComponentRow(id=c.id)
            row.all_components.append(component)
        component.is_retired, component.position = False, place
        _fill_component(component, c)
    for component in row.all_components:
        if component.variant_id is None and component.id not in wanted:
            component.is_retired = True
    session.flush()
    by_id = {c.id: c for c in row.all_components}
    lines = {line.id: line for c in row.all_components for line in c.lines}
    _refuse_strangers(session, LineRow, {x.id for c in typed.components for x in c.lines} - lines.keys())
    _let_go_of_moved_lines(session, typed, by_id)
    for c in typed.components:
        component = by_id[c.id]
        own = {line.id: line for line in component.lines}
        component.lines[:] = [_line_row(own.get(x.id), x, foods[x.food_key], place) for place, x in enumerate(c.lines)]


def _let_go_of_moved_lines(session: HouseholdSession, typed: RecipeInput, rows: Mapping[UUID, ComponentRow]) -> None:
    """A line that was moved to another component leaves its old one first: a line's id stands in one place."""
    home = {x.id: c.id for c in typed.components for x in c.lines}
    moved = False
    for component in rows.values():
        staying = [line for line in component.lines if home.get(line.id, component.id) == component.id]
        if len(staying) < len(component.lines):
            component.lines[:] = staying
            moved = True
    if moved:
        session.flush()


def _fill_component(component: ComponentRow, c: ComponentInput) -> None:
    component.name, component.cooked_as = c.name, c.cooked_as
    component.cooked_g = None if c.cooked_g is None else grams(c.cooked_g)
    s = c.storage
    chosen = {
        "keep_group": s.keep_group,
        "freezable": s.freezable,
        "reheat": s.reheat,
        "container": s.container,
        "texture": s.texture,
        "own_days": s.own_days,
        "days_because": s.days_because,
    }
    component.storage = {key: value for key, value in chosen.items() if value not in ("", None)}
    component.vessel, component.minimum_ml = c.vessel, c.minimum_ml
    component.pending = [
        {"key": p.key, "text": p.text, "doubt": p.doubt, "food_key": p.food_key, "amount": p.amount} for p in c.pending
    ]
    component.used_component_id = c.used_component_id
    component.serving_g = None if c.serving_g is None else grams(c.serving_g)


def _put_variants(session: HouseholdSession, row: RecipeRow, typed: RecipeInput, foods: dict[str, FoodRow]) -> None:
    """Write what variants change, and a row for each component a variant cooks apart."""
    if not typed.variants and not row.changes:
        return
    known = {c.id: c for c in row.changes}
    changes = []
    for v in typed.variants:
        for x in v.changes:
            change = known.get(uuid5(v.id, str(x.line_id))) or VariantChangeRow(id=uuid5(v.id, str(x.line_id)))
            change.variant_id, change.line_id, change.amount_g = v.id, x.line_id, grams(x.amount_g)
            change.food_id = foods[x.food_key].id if x.food_key else None
            changes.append(change)
    row.changes[:] = changes
    session.flush()
    if not typed.variants:
        return
    recipe = recipe_of(typed, Around({key: food.value() for key, food in foods.items()}))
    rows = {c.id: c for c in row.all_components}
    for variant in recipe.variants:
        for component in changed_components(recipe, variant):
            apart = rows.get(UUID(component.key))
            if apart is None:
                apart = ComponentRow(id=UUID(component.key), position=1000)
                row.all_components.append(apart)
            apart.name, apart.variant_id = component.name[:80], UUID(variant.key)
    session.flush()


def _refuse_strangers(session: HouseholdSession, kind: type[ComponentRow | LineRow], new_ids: set[UUID]) -> None:
    """New rows bring new ids; one that already stands in another recipe is not taken over."""
    if new_ids and session.scalar(select(kind.id).where(kind.id.in_(new_ids)).limit(1)) is not None:
        raise NotFound(say("line of this recipe"))


def _line_row(line: LineRow | None, typed: LineInput, food: FoodRow, place: int) -> LineRow:
    line = line or LineRow(id=typed.id)
    if line.food_id != food.id:
        line.food_id, line.figures_version, line.keeps_figures = food.id, food.figures_version, False
    if typed.kept_version is not None:
        line.figures_version, line.keeps_figures = typed.kept_version, True
    line.amount_g, line.measure, line.position = grams(typed.amount_g), typed.measure, place
    line.amount_text, line.error_g = (typed.typed or None), typed.error_g
    line.uptake, line.use_at = typed.uptake, typed.use
    for name, flag in flags_of(typed).items():
        setattr(line, name, flag)
    return line


def _check_plausible(typed: RecipeInput, foods: dict[str, FoodRow]) -> None:
    faults = []
    for c in typed.components:
        for line in c.lines:
            food = foods[line.food_key].value()
            most = largest_plausible_g(food)
            if line.amount_g > most:
                faults.append(
                    InvalidInput(
                        f"line-{line.id}-amount",
                        say(
                            "{amount_g} g of {name} is more than a home kitchen uses.",
                            amount_g=shown(line.amount_g),
                            name=food.name.lower(),
                        ),
                        say("At most {most} g.", most=shown(most)),
                    )
                )
    if faults:
        raise InvalidInputs(faults)


def archive(caller: Caller, recipe_id: UUID, *, archived: bool) -> None:
    """Put a recipe aside, or take it out again. Weeks that were planned with it keep it.

    Raises:
        NotFound: when the household has none with this id.
    """
    with caller.transaction() as session:
        session.execute(select(RecipeRow.id).where(RecipeRow.id == recipe_id).with_for_update())  # one after another
        existing(session, RecipeRow, recipe_id, "recipe").is_archived = archived


def duplicate(caller: Caller, recipe_id: UUID, copy_id: UUID) -> UUID:
    """Copy a recipe under a new id; sending it twice makes one copy. Its variants and steps come along.

    Raises:
        NotFound: when the household has no such recipe.
    """
    with caller.transaction() as session:
        row = existing(session, RecipeRow, recipe_id, "recipe")
        put_recipe(session, copied(input_of(row), copy_id))
    return copy_id


def copied(typed: RecipeInput, copy_id: UUID) -> RecipeInput:
    """A recipe with ids of its own, made from the copy's id: the same copy gets the same ones."""

    def new(old: UUID | str) -> UUID:
        return uuid5(copy_id, str(old))

    components = tuple(
        replace(
            c,
            id=new(c.id),
            lines=tuple(replace(x, id=new(x.id)) for x in c.lines),
            pending=tuple(replace(p, key=str(new(p.key))) for p in c.pending),
        )
        for c in typed.components
    )
    own = {str(c.id) for c in typed.components}
    steps = tuple(
        replace(s, component_key=str(new(s.component_key)) if s.component_key in own else s.component_key)
        for s in typed.steps
    )
    variants = tuple(
        replace(v, id=new(v.id), changes=tuple(replace(x, line_id=new(x.line_id)) for x in v.changes))
        for v in typed.variants
    )
    name = say("{name} (copy)", name=typed.name)[:160]
    return replace(typed, id=copy_id, name=name, version=0, components=components, steps=steps, variants=variants)
