"""Barcodes as a keyboard-style scanner types them: their check digit, and the numbers shops give themselves.

Source: GS1 General Specifications, check digit calculation (modulo 10, weights 3 and 1 from the right) and
restricted circulation numbers (GTIN-13 prefixes 20 to 29).
"""

from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.ground.wording import say

LENGTHS = (8, 12, 13, 14)


def check_digit(digits: str) -> int:
    """The check digit that belongs after these digits.

    Raises:
        InvalidInput: when there is anything but digits.
    """
    if not (digits.isascii() and digits.isdigit()):
        raise InvalidInput("barcode", say("A barcode is digits only."), say("Scan it again."))
    weighted = sum(int(d) * (3 if place % 2 == 0 else 1) for place, d in enumerate(reversed(digits)))
    return -weighted % 10


def looks_like_barcode(text: str) -> bool:
    """Whether typed text is meant as a barcode: nothing but digits, as many as barcodes have."""
    code = text.replace(" ", "")
    return code.isascii() and code.isdigit() and len(code) in LENGTHS


def read_barcode(text: str, field: str = "barcode") -> str:
    """A scanned or typed barcode, spaces taken out, check digit checked.

    Raises:
        InvalidInput: for other characters, a length no barcode has, or a wrong check digit.
    """
    code = "".join(text.split())
    if not (code.isascii() and code.isdigit()):
        raise InvalidInput(field, say("“{text}” is not only digits.", text=text.strip()[:20]), say("Scan it again."))
    if len(code) not in LENGTHS:
        raise InvalidInput(field, say("{code} digits are no barcode.", code=len(code)), say("One has 8, 12, 13 or 14."))
    wanted = check_digit(code[:-1])
    if int(code[-1]) != wanted:
        raise InvalidInput(
            field,
            say(
                "The last digit of {code} should be {wanted}, not {code2}: a digit was misread.",
                code=code,
                wanted=wanted,
                code2=code[-1],
            ),
            say("Scan it again, or compare the digits printed under the bars."),
        )
    return code


def is_in_store(code: str) -> bool:
    """Whether a code comes from the ranges shops use for their own goods (GTIN-13, 20 to 29): elsewhere it means
    something else."""
    return len(code) == 13 and code[0] == "2"
