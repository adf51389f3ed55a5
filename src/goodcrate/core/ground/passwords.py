"""Which passwords are refused, and why: too short, too plain, or among the commonest."""

import hashlib
from collections.abc import Collection, Iterator
from itertools import pairwise

from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.ground.wording import Saying, say
from goodcrate.core.ground.writing import shown

SHORTEST, LONGEST = 10, 1000
FEWEST_LETTERS = 5
"""Fewer different letters than that are guessed at once."""


def common_mark(password: str) -> str:
    """What stands for a password in the list of the commonest: the beginning of its SHA-256, in lower case."""
    return hashlib.sha256(password.lower().encode()).hexdigest()[:16]


BETTER = Saying("Three or four words do.")


def faults_of_password(
    password: str, commonest: Collection[str], names: Collection[str] = (), field: str = "password"
) -> Iterator[InvalidInput]:
    """At most one fault; `commonest` are marks, `names` what stands beside it on the form."""
    plain = password.lower()
    if len(password) < SHORTEST:
        yield InvalidInput(
            field,
            say("{password} characters are too few.", password=len(password)),
            say("At least {SHORTEST}.", SHORTEST=SHORTEST),
        )
    elif len(password) > LONGEST:
        yield InvalidInput(
            field, say("This is too long."), say("At most {LONGEST} characters.", LONGEST=shown(LONGEST))
        )
    elif len(set(plain)) < FEWEST_LETTERS:
        used = len(set(plain))
        problem = say("It is made of only {used} different character{word}.", used=used, word="s" if used != 1 else "")
        yield InvalidInput(field, problem, BETTER)
    elif _is_a_run(plain):
        yield InvalidInput(field, say("It only counts up or down."), BETTER)
    elif any(len(n) >= 3 and plain.replace(n.strip().lower(), "").strip("0123456789-_ !.") == "" for n in names):
        yield InvalidInput(field, say("It is a name on this page."), BETTER)
    elif common_mark(password) in commonest:
        yield InvalidInput(field, say("It is one of the commonest passwords and guessed first."), BETTER)


def _is_a_run(plain: str) -> bool:
    steps = {ord(b) - ord(a) for a, b in pairwise(plain)}
    return steps in ({1}, {-1}) or plain in ("1234567890" * 3)
