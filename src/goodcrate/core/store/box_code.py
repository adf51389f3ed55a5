"""The short code on a box: what a person reads out or types. The whole id stands in its QR code."""

from uuid import UUID

LETTERS = "0123456789ABCDEFGHJKMNPQRSTVWXYZ"
"""Crockford's base 32: no letter that is taken for another, and no I, L, O, U."""
LENGTH = 4


def box_code(box_id: UUID) -> str:
    """The code of a box: four signs, the first twenty bits of its id. Of 100 boxes at a time two are alike in about one
    household in 200; the QR code tells them apart."""
    bits = box_id.int >> (128 - 5 * LENGTH)
    return "".join(LETTERS[(bits >> 5 * place) & 31] for place in reversed(range(LENGTH)))
