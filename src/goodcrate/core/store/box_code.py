"""The short code on a box: what a person reads out or types. The whole id stands in its QR code."""

import re
from uuid import UUID

from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.ground.wording import say

LETTERS = "0123456789ABCDEFGHJKMNPQRSTVWXYZ"
"""Crockford's base 32: no letter that is taken for another, and no I, L, O, U."""
LENGTH, LONGEST = 4, 300


_MEANT = str.maketrans("OIL", "011")


def read_code(typed: str) -> UUID | str:
    """What a scanner or a person gave: the id in a scanned address, else the short code as it is meant (an O is a 0).

    Raises:
        InvalidInput: for something that is neither.
    """
    if found := re.search(r"[0-9a-f]{8}(?:-[0-9a-f]{4}){3}-[0-9a-f]{12}", typed[:LONGEST].lower()):
        return UUID(found[0])
    code = re.sub(r"[\s-]", "", typed[:LONGEST].upper()).translate(_MEANT)
    if len(code) != LENGTH or any(sign not in LETTERS for sign in code):
        told = say("“{typed}” is no box’s code.", typed=typed.strip()[:24])
        raise InvalidInput("code", told, say("Scan the square on its label, or type its four signs."))
    return code


def box_code(box_id: UUID) -> str:
    """The code of a box: four signs, the first twenty bits of its id. Of 100 boxes at a time two are alike in about one
    household in 200; the QR code tells them apart."""
    bits = box_id.int >> (128 - 5 * LENGTH)
    return "".join(LETTERS[(bits >> 5 * place) & 31] for place in reversed(range(LENGTH)))
