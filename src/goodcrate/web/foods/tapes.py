"""Tapes of foods: the working of a label, of 100 g, and of “this much”."""

from collections.abc import Mapping
from dataclasses import replace

from goodcrate.core.foods.food import Food, energy_from_macros_kcal
from goodcrate.core.foods.label import LabelReading
from goodcrate.core.foods.label_figures import LabelLine
from goodcrate.core.ground.nutrients import BY_KEY, energy_by_source, net_carbohydrate_g
from goodcrate.core.ground.wording import Saying, say
from goodcrate.core.ground.writing import figures_told, round_half_up
from goodcrate.core.recipes.figures_shown import FiguresShown
from goodcrate.web.figures import grams, number, percent, plain, whole
from goodcrate.web.finder import FoundLine
from goodcrate.web.tape import SUM_KEYS, DoubtSource, Tape, TapeLine, Why, doubt_sentence, spread_shown, sums_of


def figure(value: float | None, key_unit: str) -> str:
    """A figure per 100 g with its unit, or unknown: whole kcal and mg above ten, tenths below."""
    if value is None:
        return "unknown"
    if value < 1:
        return f"{plain(round_half_up(value, 2))} {key_unit}"
    return f"{number(value, 0 if not key_unit.startswith('g') and value >= 10 else 1)} {key_unit}"


def label_tape(name: str, reading: LabelReading, shown: FiguresShown) -> Tape:
    """A label's working, figure by figure, with the energy check at its end."""
    lines = tuple(TapeLine(line.name, "", figure(line.per_100_g, line.unit), _working(line)) for line in reading.lines)
    sums: tuple[TapeLine, ...] = ()
    net = reading.composition.net_carbohydrate_g(shown.polyol_share)
    if shown.net_carbohydrate and net is not None:
        lines += (TapeLine(say("net carbohydrate"), "", figure(net, "g")),)
    stated = reading.composition.get("energy_kcal")
    if reading.macro_energy_kcal is not None:
        sums = (
            TapeLine(
                say("from its figures"),
                "",
                say("{macro_energy_kcal} kcal", macro_energy_kcal=whole(reading.macro_energy_kcal)),
                _sum_of(reading),
            ),
        )
        if stated is not None:
            gap = reading.macro_energy_kcal - stated
            sums += (
                TapeLine(
                    say("as printed"),
                    "",
                    say("{stated} kcal", stated=whole(stated)),
                    say("{gap} kcal apart", gap=_signed(gap)),
                ),
            )
    whys = tuple(Why(f"{q.problem} {q.cause}") for q in reading.queries)
    if not whys and sums and stated is not None:
        whys = (Why(say("Energy and figures agree within 12 % or 12 kcal.")),)
    return Tape(say("The label"), f"{name or 'This food'}, {_basis(reading)}", lines, sums, whys)


def _working(line: LabelLine) -> str:
    """How a printed figure came to 100 g, and the label's rounding where it matters: from 3 % of the figure."""
    value, error = line.per_100_g, line.standard_error
    if value and error / value > 0.03 and error >= 0.05:
        return say(
            "{working}; ± {error} {unit}, the label’s rounding",
            working=line.working,
            error=number(error, 1 if error < 10 else 0),
            unit=line.unit,
        )
    return "" if line.working == line.typed.strip() else line.working


def _basis(reading: LabelReading) -> str:
    if reading.basis_g is None:
        return say("basis not known yet")
    return (
        say("per 100 g as printed")
        if reading.basis_words == "per 100 g"
        else say("{basis_words} → per 100 g", basis_words=reading.basis_words)
    )


def _signed(value: float) -> str:
    return f"+{whole(value)}" if round_half_up(value) > 0 else whole(value)


def _sum_of(reading: LabelReading) -> str:
    parts = {name: kcal for name, kcal in energy_by_source(reading.composition.as_mapping()).items() if kcal >= 0.5}
    return " + ".join(f"{name} {whole(kcal)}" for name, kcal in parts.items())


BY_MACROS = Saying("4 · protein + 9 · fat + 4 · carbohydrate + 2 · fibre + 2.4 · polyols + 7 · alcohol")


def food_tape(food: Food, polyol_share: float) -> Tape:
    """100 g of a food: where its energy comes from, and its net carbohydrate."""
    figures = food.composition.as_mapping()
    lines = tuple(TapeLine(name, "", whole(kcal)) for name, kcal in energy_by_source(figures).items() if kcal >= 0.5)
    stated, computed = figures["energy_kcal"], energy_from_macros_kcal(food.composition)
    sums = []
    if computed is not None:
        sums.append(
            TapeLine(
                say("from its figures"),
                "",
                say("{computed} kcal", computed=whole(computed)),
                figures_told(str(BY_MACROS)),
            )
        )
    if stated is not None:
        sums.append(TapeLine(say("as it stands"), "", say("{stated} kcal", stated=whole(stated))))
    net = net_carbohydrate_g(figures, polyol_share, food.composition.at_least)
    if net is not None:
        polyols = figures["polyols_g"]
        note = say(
            "total {figures} − fibre {figures2}",
            figures=number(figures["carbohydrate_g"] or 0),
            figures2=number(figures["fibre_g"] or 0),
        )
        note += (
            say(" − {polyol_share} of polyols {polyols}", polyol_share=percent(polyol_share), polyols=number(polyols))
            if polyols
            else ""
        )
        sums.append(TapeLine(say("net carbohydrate"), "", f"{number(net)} g", note))
    return Tape("100 g", say("{name}: energy by source", name=food.name), lines, tuple(sums))


def amount_tape(found: FoundLine, words: str, shown: FiguresShown) -> Tape:
    """What this much of a food is, nutrient by nutrient, working included."""
    food, weighed, tally = found.food, found.weighed, found.tally
    if weighed is None or tally is None:
        return Tape(words, food.name)
    amount = weighed.amount
    error = f", ± {grams(amount.standard_error_g)} g" if amount.standard_error_g >= 0.05 else ""
    lines = [TapeLine("weight", "", f"{grams(amount.grams)} g", f"{weighed.working}{error}")]
    for key in SUM_KEYS:
        per_100 = food.composition.get(key)
        if per_100 and amount.grams > 0:
            nutrient = BY_KEY[key]
            got = tally.amount(key)
            lines.append(
                TapeLine(
                    nutrient.label,
                    f"{grams(amount.grams)} × {number(per_100 / 100, 3)}",
                    number(got.value, nutrient.decimals),
                )
            )
    name = food.name.lower()
    sources: Mapping[str, DoubtSource] = {
        "amount": DoubtSource(say("the amount of {name}", name=name), amount.is_read_off_a_scale, field="q"),
        f"figures:{food.key}": DoubtSource(name, False, f"/foods/{food.key}/label", is_figures=True),
    }
    why = doubt_sentence(tally, sources)
    if why is not None and why.field:
        why = replace(why, typed=f" g {food.name}")
    return Tape(
        f"{amount.typed}",
        food.name,
        tuple(lines),
        sums_of(tally, shown, spread_shown(shown, [(food, amount.grams)])),
        (why,) if why else (),
    )
