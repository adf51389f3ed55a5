"""One ingredient row of the recipe form as typed, and what is said at it."""

from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Annotated

from goodcrate.core.foods.food import Food
from goodcrate.core.ground.amounts import is_read_otherwise
from goodcrate.core.ground.wording import Saying, say
from goodcrate.core.recipes.component import FLAG_WORDS, USES, IngredientLine, LineFlags, PendingLine, flags_of
from goodcrate.services.recipes.pasting import MatchedLine
from goodcrate.services.week.weeks import new_id
from goodcrate.web.field_kinds import number
from goodcrate.web.fields import Fields, maybe
from goodcrate.web.figures import plain
from goodcrate.web.security import Sent

FATES = {"out": "is_discarded", "poured": "is_poured_off"}
"""What becomes of a line, as the form's choice; its other flags are ticked."""


class LineFields(Fields):
    """What is read of a line by itself; its amount and the fact it asks for are read with its food."""

    food: str = ""
    amount: str = ""
    measure: str = "weighed"
    fact: str = ""
    fact_name: str = ""
    uptake: Annotated[float | None, maybe(number(0, 100, "%", Saying("Per cent, from 0 to 100."), scale=0.01))] = None
    use: str = ""
    pasted: str = ""
    doubt: str = ""


@dataclass
class LineForm:
    """One ingredient row as typed. `pasted` is the line it came from, `doubt` why that waits for a yes."""

    id: str
    food: str = ""
    amount: str = ""
    measure: str = "weighed"
    fact: str = ""
    fact_name: str = ""
    uptake: str = ""
    use: str = ""
    pasted: str = ""
    doubt: str = ""
    flags: LineFlags = field(default_factory=LineFlags)
    others: tuple[tuple[str, str], ...] = ()
    measure_was_sent: bool = True

    @property
    def has_flags(self) -> bool:
        """Whether anything but its amount is said about the line."""
        return bool(flag_words(self))

    @property
    def as_sent(self) -> tuple[object, ...]:
        """All that reading it depends on, but its food."""
        return self.id, self.amount, self.measure, self.uptake, self.use, self.flags

    @property
    def fate(self) -> str:
        """What becomes of it, as the form's choice."""
        return next((fate for fate, name in FATES.items() if getattr(self.flags, name)), "")

    @classmethod
    def of_post(cls, form: Sent, line_id: str) -> "LineForm":
        """A row as it was sent."""
        p = f"line-{line_id}-"
        flags = {name: p + name in form for name in FLAG_WORDS}
        flags |= {name: form.get(f"{p}fate") == fate for fate, name in FATES.items()}
        sent = cls(line_id, measure_was_sent=f"{p}measure" in form, flags=LineFlags(**flags))
        for name, typed in LineFields.as_typed(form, p).items():
            setattr(sent, name, typed)
        sent.measure = sent.measure or "weighed"
        return sent

    @classmethod
    def of_line(cls, x: IngredientLine) -> "LineForm":
        """A saved line."""
        typed = "" if is_read_otherwise(x.amount.typed) else x.amount.typed
        return cls(
            x.key,
            x.food.key,
            "" if x.is_to_taste and x.amount.grams == 0 else typed or plain(x.amount.grams),
            x.amount.measure,
            uptake="" if x.uptake == 1 else plain(x.uptake * 100),
            use=x.use,
            flags=LineFlags(**flags_of(x)),
        )

    @classmethod
    def of_pending(cls, p: PendingLine, others: Sequence[Food] = ()) -> "LineForm":
        """A line that is not understood yet."""
        return cls(
            p.key, p.food_key, p.amount, pasted=p.text, doubt=p.doubt, others=tuple((f.key, f.name) for f in others)
        )

    @classmethod
    def of_match(cls, matched: MatchedLine) -> "LineForm":
        """A row for a pasted line, with what it was taken for."""
        return cls(
            str(new_id()),
            matched.food.key if matched.food else "",
            matched.amount_text,
            flags=LineFlags(is_optional=matched.is_optional, is_to_taste=matched.is_to_taste),
            pasted=matched.text,
            doubt="; ".join(matched.doubts),
            others=tuple((food.key, food.name) for food in matched.others),
        )


@dataclass(frozen=True)
class LineNote:
    """What is said at a line: the working of its amount, a fact to ask for, or a slip with its correction.

    `own_measure` is the measure the amount itself names (“2 tbsp”), whatever was chosen beside it.
    """

    working: str = ""
    ask: str = ""
    ask_unit: str = ""
    fact_name: str = ""
    slip: str = ""
    slip_amount: str = ""
    own_measure: str = ""
    flags: str = ""

    @property
    def is_empty(self) -> bool:
        """Whether there is nothing to say."""
        return not (self.working or self.ask or self.fact_name or self.slip or self.flags)


def flag_words(line: LineForm) -> str:
    """What is said about a line besides its amount."""
    words = [USES[line.use]] if line.use in USES and line.use else []
    if line.flags.is_discarded:
        words.append(say("taken out after cooking: counts nothing"))
    elif line.flags.is_poured_off:
        words.append(say("poured off: leaves with what it holds"))
    elif line.uptake.strip():
        words.append(say("{uptake} % of it stays in the food", uptake=line.uptake.strip().rstrip("% ")))
    words += [word for name, word in FLAG_WORDS.items() if getattr(line.flags, name)]
    return " · ".join(words)
