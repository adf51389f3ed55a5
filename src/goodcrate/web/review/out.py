"""A week looked back on as a table: every day, step, box, nutrient and lesson behind its page."""

from collections.abc import Iterator, Sequence

from goodcrate.core.ground.nutrients import BY_KEY, KEYS
from goodcrate.formats.csv_table import as_text
from goodcrate.services.review.brought import standings_of
from goodcrate.services.review.learned import Learned
from goodcrate.services.review.taking import Card
from goodcrate.services.review.week_story import EaterDayStory, WeekStory
from goodcrate.web.review.day_bars import steps_told

CSV_HEADER = ("what", "eater", "day", "of", "nutrient", "unit", "amount", "grams", "note")
HEADLINES = ("energy_kcal", "protein_g")
Row = tuple[object, ...]


def rows_of(story: WeekStory, learned: Learned, cards: Sequence[Card]) -> Iterator[Row]:
    """All of it, figures as they are computed: planned, in_boxes, eaten, give_or_take and not_known (a share of the
    weight) of each day and nutrient; the steps of energy and protein; what is asked; boxes; yields; proposals."""
    for day in story.days:
        yield from _day(story, day)
    yield from _nutrients(story)
    yield from _boxes(story, learned)
    for one in learned.yields:
        yield ("yield", "", "", as_text(one.name), "", "", f"{one.this_pot:.6g}", "", f"expects {one.expects:.6g}")
    for miss in learned.accuracy:
        yield ("filled", "", "", miss.how or "typed", "", "g", f"{miss.miss_g:.6g}", "", f"{miss.boxes} boxes")
    for session in learned.sessions:
        note = f"planned {session.time.planned_min}"
        yield ("session", "", session.starts_at.isoformat(), "", "", "min", session.time.took_min, "", note)
    for card in cards:
        yield ("proposal", "", "", as_text(card.proposal.title), "", "", "", "", "taken" if card.is_taken else "open")


def _day(story: WeekStory, day: EaterDayStory) -> Iterator[Row]:
    who, when = as_text(day.eater.name), day.day.isoformat()
    for key in KEYS:
        sums, unit = day.of(key), str(BY_KEY[key].unit)
        measured = day.eaten.amount(key)
        figures: list[tuple[str, float]] = [("planned", sums.planned), ("in_boxes", sums.packed)]
        if day.is_said:
            figures += [("eaten", sums.eaten), ("give_or_take", measured.standard_error)]
            figures += [("not_known", measured.unknown_share)]
        for what, amount in figures:
            yield (what, who, when, "", key, unit if what != "not_known" else "share", f"{amount:.10g}", "", "")
    for key in HEADLINES if day.is_said else ():
        for step in steps_told(story, day, key, whole=True):
            unit, words, note = str(BY_KEY[key].unit), as_text(step.words), as_text(step.note)
            yield ("step", who, when, words, key, unit, f"{step.amount:.10g}", f"{step.grams:.6g}", note)


def _nutrients(story: WeekStory) -> Iterator[Row]:
    for eater in story.table.picture.eaters:
        days = [d for d in story.days if d.eater.id == eater.id and d.is_over]
        for one in standings_of(days, eater) if days else ():
            unit, who = str(BY_KEY[one.nutrient].unit), as_text(eater.name)
            yield ("mean", who, "", "", one.nutrient, unit, f"{one.known:.10g}", "", one.says)
            if one.asked.wanted is not None:
                row = one.asked.wanted
                yield ("asked", who, "", "", one.nutrient, unit, f"{row.value:g}", "", f"{row.kind}, {row.source}")
            for row in one.asked.limits:
                yield ("limit", who, "", "", one.nutrient, unit, f"{row.value:g}", "", f"{row.kind}, {row.source}")


def _boxes(story: WeekStory, learned: Learned) -> Iterator[Row]:
    names = {str(e.id): e.name for e in story.table.picture.eaters}
    dishes = {r.key: r.name for r in story.table.picture.recipes.values()}
    for fate in learned.fates:
        note = f"{fate.finished} of {fate.boxes} boxes finished, {fate.thrown_g:.1f} g thrown away"
        who, dish = as_text(names.get(fate.eater_key, "")), as_text(dishes[fate.dish_key])
        yield ("dish", who, "", dish, "", "g", f"{fate.eaten_g:.6g}", f"{fate.grams:.6g}", note)
    for box in learned.thrown:
        who, dish = as_text(names.get(box.eater_key, "")), as_text(dishes[box.dish_key])
        yield ("thrown", who, "", dish, "", "g", f"{box.thrown_g:.6g}", "", as_text(box.why))
