"""The week's tapes: one box, or one eater's day."""

from datetime import date

from goodcrate.core.foods.food import Food
from goodcrate.core.ground.nutrients import Tally
from goodcrate.core.ground.wording import say
from goodcrate.core.ground.writing import clock, day_month, heats_told, many, weekday, weekday_whole
from goodcrate.core.portion.filled_boxes import PLANNED
from goodcrate.core.portion.week_outcome import PlacedBox, WorkedBatch
from goodcrate.core.recipes.counting import left_out
from goodcrate.core.recipes.figures_shown import contents_of
from goodcrate.core.recipes.recipe import Batch, serving_of
from goodcrate.core.targets.day_target import slot_share_kcal
from goodcrate.core.targets.day_target import still_lacking as lacking_of
from goodcrate.core.week.meals import Meal
from goodcrate.core.week.storing import CUPBOARD, PAST, Stay
from goodcrate.services.cook.cooking import batch_id_for
from goodcrate.services.week.weeks import WeekPicture
from goodcrate.web.figures import grams, number, plain, whole
from goodcrate.web.tape import (
    STAGE_WORDS,
    DoubtSource,
    Tape,
    TapeLine,
    Why,
    doubt_sentence,
    doubt_sources,
    left_out_sentence,
    spread_shown,
    sums_of,
)
from goodcrate.web.week.view import Cell, EaterDay


def _batch_of(picture: WeekPicture, box: PlacedBox, component_key: str) -> WorkedBatch | None:
    return next(
        (
            w
            for w in picture.outcome.batches
            if w.plan.component_key == component_key and w.plan.session_key == box.placing.session_key
        ),
        None,
    )


def all_doubt_sources(picture: WeekPicture) -> dict[str, DoubtSource]:
    """Every source of doubt in a week: ingredients of its batches, and of recipes no session cooks.

    Each is weighed where its batch is cooked, or in its recipe.
    """
    sources: dict[str, DoubtSource] = {}
    for recipe in picture.recipes.values():
        lines = [line for c in recipe.components for line in c.lines]
        sources |= doubt_sources(lines, lambda line, key=recipe.key: f"/recipes/{key}#line-{line.key}")  # type: ignore[misc]
    for w in picture.outcome.batches:
        batch_id = batch_id_for(picture.week.id, w.plan.session_key, w.plan.component_key)
        where = f"/cook/{picture.dates[0]}/{batch_id}"
        sources |= doubt_sources(w.outcome.state.lines, lambda _, where=where: where)  # type: ignore[misc]
    return sources


def box_contents(picture: WeekPicture, box: PlacedBox) -> list[tuple[Food, float]]:
    """The foods in a box with the grams of each: its share of each batch, or of the recipe as written."""
    per_gram = {part.component.key: part for part in serving_of(picture.recipes[box.placing.recipe_key]).parts}
    contents: list[tuple[Food, float]] = []
    for part in box.parts:
        worked = _batch_of(picture, box, part.component_key)
        written = per_gram.get(part.component_key)
        if worked is None and written is None:
            continue  # of another dish, and its batch is not known here
        lines = worked.outcome.state.lines if worked else written.component.lines if written else ()
        whole_g = worked.outcome.state.batch.cooked_g if worked else written.expected.grams if written else 0.0
        contents += contents_of(lines, part.grams / whole_g if whole_g else 0.0)
    return contents


def box_tape(picture: WeekPicture, eater_day: EaterDay, cell: Cell, placement: Meal, day: date) -> Tape:
    """A box, component by component: grams × energy per gram of the batch it comes from."""
    box = picture.outcome.boxes[str(placement.id)]
    recipe = picture.recipes[box.placing.recipe_key]
    per_gram = {part.component.key: part.batch for part in serving_of(recipe).parts}
    lines = []
    for part in box.parts:
        worked = _batch_of(picture, box, part.component_key)
        batch: Batch = worked.outcome.state.batch if worked else per_gram[part.component_key]
        density = batch.per_100_g("energy_kcal").value / 100
        note = say("in the house") if placement.from_box else STAGE_WORDS[part.stage]
        if worked and part.stage == PLANNED and worked.is_started:
            note += say("; ingredients as weighed so far")
        elif worked:
            note += say(
                "; batch {ingredient_g} → {cooked_g} g",
                ingredient_g=whole(batch.ingredient_g),
                cooked_g=whole(batch.cooked_g),
            )
        energy = part.tally.amount("energy_kcal").value
        lines.append(TapeLine(part.name, f"{grams(part.grams)} g × {number(density, 2)}", whole(energy), note))
    slot = cell.slot
    conditions = [w for w, on in (("cold", slot.eaten_cold), ("travels", slot.travels)) if on]
    of = f"{eater_day.eater.name} · {weekday(day)} {day.day} · {slot.name} {clock(slot.at)}"
    blocks, kcal = eater_day.eater.blocks, box.tally.amount("energy_kcal").value
    in_blocks = Why(say("In blocks: about {kcal}.", kcal=blocks.words(kcal))) if blocks is not None else None
    here = say("A box that is in the house already, counted as its recipe is written.")
    from_box = Why(here) if placement.from_box else None
    doubt = doubt_sentence(box.tally, all_doubt_sources(picture))
    whys = [doubt, in_blocks, from_box, stay_sentence(picture, cell.stay)]
    return Tape(
        cell.name,
        f"{of}{' · ' if conditions else ''}{', '.join(conditions)} · {grams(box.tally.grams)}\u00a0g",
        tuple(lines),
        sums_of(box.tally, picture.shown, spread_shown(picture.shown, box_contents(picture, box))),
        tuple(why for why in whys if why),
    )


def stay_sentence(picture: WeekPicture, stay: Stay | None) -> Why | None:
    """Where a box waits, until when, by which guidance and whose."""
    if stay is None:
        return None
    keeping, rule = stay.keeping, picture.capacity.keep_rule
    by = say("{decided_by} decides; {source}", decided_by=keeping.decided_by.lower(), source=keeping.group.source)
    if stay.place == CUPBOARD:
        return Why(say("Keeps dry in the cupboard ({by}).", by=by))
    if stay.thaw_on is not None:
        how = say(" Thaw {thaw}.", thaw=heats_told(keeping.group.thaw)) if keeping.group.thaw else ""
        return Why(
            say(
                "Waits in the freezer: take it out on {thaw_on} evening.{how} ({by})",
                thaw_on=weekday_whole(stay.thaw_on),
                how=how,
                by=by,
            )
        )
    days = (
        say("day {days} of {fridge_days}", days=stay.days, fridge_days=keeping.fridge_days)
        if stay.days
        else say("on the day it is cooked")
    )
    if stay.place == PAST:
        eaten = say("Eaten {days} after cooking", days=many(stay.days, "day"))
        words = say(
            "{eaten}: past the {fridge_days} of {rule} advice, and it does not freeze ({by}).",
            eaten=eaten,
            fridge_days=keeping.fridge_days,
            rule=rule,
            by=by,
        )
        return Why(say("{words} Move it nearer to its session, or add one.", words=words))
    return Why(
        say(
            "In the fridge, eaten {days} by {rule} advice ({by}). A printed use-by date overrules.",
            days=days,
            rule=rule,
            by=by,
        )
    )


def _against_its_target(eater_day: EaterDay) -> list[Why]:
    whys = [Why(f"{line.words.capitalize()}.") for line in eater_day.bands]
    if eater_day.target and eater_day.energy and eater_day.protein:
        target = eater_day.target
        whys.append(
            Why(
                say(
                    "Energy {words}: the band of ±{energy_band_pct} % around {energy_kcal} kcal runs "
                    "from {energy_low_kcal} to {energy_high_kcal}.",
                    words=eater_day.energy.words,
                    energy_band_pct=plain(target.energy_band_pct),
                    energy_kcal=whole(target.energy_kcal),
                    energy_low_kcal=whole(target.energy_low_kcal),
                    energy_high_kcal=whole(target.energy_high_kcal),
                )
            )
        )
        whys.append(
            Why(
                say(
                    "Protein {words}; the floor is {protein_floor_g} g.",
                    words=eater_day.protein.words,
                    protein_floor_g=whole(target.protein_floor_g),
                )
            )
        )
    wanted = eater_day.eater.mean_over(range(7))
    if wanted is not None and eater_day.target:
        told = {"low": whole(wanted.energy_low_kcal), "high": whole(wanted.energy_high_kcal)}
        least, room = whole(wanted.protein_floor_g), plain(eater_day.eater.day_room_pct or 0.0)
        words = say(
            "What counts is the week’s mean, {low} to {high} kcal and {least} g of protein a day: this day may be off "
            "its own by {room} %.",
            least=least,
            room=room,
            **told,
        )
        whys.append(Why(words))
    return whys


def day_tape(picture: WeekPicture, eater_day: EaterDay, day: date) -> Tape:
    """One eater's day, meal by meal, against its target."""
    lines = [
        TapeLine(
            cell.slot.name,
            say("{protein_g} g protein", protein_g=whole(cell.protein_g)),
            whole(cell.energy_kcal),
            cell.name,
        )
        if cell.placement
        else TapeLine(cell.slot.name, "", "–", say("nothing placed"))
        for cell in eater_day.cells
    ]
    lines += [
        TapeLine("besides", extra.text, whole(extra.tally.amount("energy_kcal").value), say("every day, not prepped"))
        for extra in eater_day.eater.extras
    ]
    whys = _against_its_target(eater_day)
    why = doubt_sentence(eater_day.total, all_doubt_sources(picture))
    traces = Tally.sum(
        left_out(picture.recipes[picture.outcome.boxes[str(cell.placement.id)].placing.recipe_key]).scaled(
            cell.placement.servings
        )
        for cell in eater_day.cells
        if cell.placement
    )
    without = left_out_sentence(traces, say("this day"))
    boxes = [picture.outcome.boxes[str(cell.placement.id)] for cell in eater_day.cells if cell.placement]
    contents = [content for box in boxes for content in box_contents(picture, box)]
    contents += [(extra.food, extra.tally.grams) for extra in eater_day.eater.extras if extra.food is not None]
    return Tape(
        f"{eater_day.eater.first_name}, {weekday_whole(day)}",
        say("{day} · {day_type} day", day=day_month(day), day_type=eater_day.day_type),
        tuple(lines),
        sums_of(eater_day.total, picture.shown, spread_shown(picture.shown, contents)),
        (*whys, *(w for w in (why, without) if w)),
    )


def still_lacking(eater_day: EaterDay) -> str:
    """What a day lacks so far, in words for whoever fills a gap."""
    if eater_day.target is None:
        return ""
    total = eater_day.total
    kcal, protein = lacking_of(total.amount("energy_kcal").value, total.amount("protein_g").value, eater_day.target)
    if kcal <= 0:
        return say("The day’s energy is already there.")
    protein_words = (
        say(" and {protein} g of protein", protein=whole(protein))
        if protein > 0
        else say("; its protein is already there")
    )
    return say("The day still lacks {kcal} kcal{protein_words}.", kcal=whole(kcal), protein_words=protein_words)


def share_of(eater_day: EaterDay, cell: Cell) -> float | None:
    """A slot's share of its day in kcal, when it has one and the day a target."""
    if cell.slot.share_pct is None or eater_day.target is None:
        return None
    return slot_share_kcal(eater_day.target.energy_kcal, cell.slot.share_pct)
