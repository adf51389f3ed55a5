"""The tape of a batch: what went in, what it weighs, what a gram of it holds, planned beside actual."""

from goodcrate.core.cook.batch_record import CookedState
from goodcrate.core.ground.nutrients import Tally
from goodcrate.core.ground.wording import say
from goodcrate.core.ground.writing import round_half_up, signed
from goodcrate.core.recipes.figures_shown import FiguresShown, contents_of
from goodcrate.web.cook.view import BatchCard
from goodcrate.web.figures import expected_weight, grams, measured, number, percent, whole
from goodcrate.web.tape import (
    Tape,
    TapeLine,
    Why,
    doubt_sentence,
    doubt_sources,
    ingredient_line,
    spread_shown,
    sums_of,
)


def _pot_told(state: CookedState, pot_g: float) -> str:
    """What the pot weighs, beside what was expected."""
    how = {
        "cooked_down": say(", cooked down: same nutrients in fewer grams"),
        "taken_out": say(", some was taken out: same density"),
    }
    return say(
        "The pot weighs {pot_g} g, {pot_share} of the expected {expected_g}{shortfall}.",
        pot_g=grams(pot_g),
        pot_share=percent(state.pot_share),
        expected_g=expected_weight(state.expected_g, state.expected_error_g),
        shortfall=how.get(state.shortfall or "", ""),
    )


def batch_tape(card: BatchCard, shown: FiguresShown, where: str = "") -> Tape:
    """A batch's ingredients, and 100 g of it cooked. `where` is the page on which it is weighed in."""
    state = card.worked.outcome.state
    lines = tuple(ingredient_line(line, is_planned=line.key not in state.weighed_keys) for line in state.lines)
    planned = Tally.sum(line.tally for line in card.worked.record.lines).amount("energy_kcal").value
    actual = state.batch.tally.amount("energy_kcal").value
    whys = []
    if state.weighed_keys and round_half_up(actual - planned) != 0:
        whys.append(
            Why(
                say(
                    "As weighed, the whole batch holds {actual} kcal against the plan.", actual=signed(actual - planned)
                )
            )
        )
    if state.pot_g is not None:
        whys.append(Why(_pot_told(state, state.pot_g)))
    why = doubt_sentence(state.batch.tally, doubt_sources(state.lines, lambda _: where))
    per_100 = state.batch.portion(100.0, standard_error_g=0.0) if state.batch.cooked_g > 0 else Tally()
    contents = contents_of(state.lines, 100.0 / state.batch.cooked_g) if state.batch.cooked_g > 0 else []
    pot = f"{grams(state.pot_g)} g" if state.pot_g is not None else ""
    weight = TapeLine(
        say("in the pot"),
        "weighed" if pot else "expected",
        pot or expected_weight(state.expected_g, state.expected_error_g),
    )
    energy = TapeLine(say("whole batch"), "", measured(state.batch.tally.amount("energy_kcal"), "energy_kcal"))
    return Tape(
        say("The batch"),
        say(
            "{title} · {ingredient_g} g in, yield {yield_factor}",
            title=card.title,
            ingredient_g=whole(state.batch.ingredient_g),
            yield_factor=number(state.batch.yield_factor, 2),
        ),
        lines,
        (weight, energy, *(_per_100(line) for line in sums_of(per_100, shown, spread_shown(shown, contents)))),
        (*whys, *((why,) if why else ())),
    )


def _per_100(line: TapeLine) -> TapeLine:
    return TapeLine(line.what, say("per 100 g"), line.result, line.note)
