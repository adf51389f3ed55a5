"""Text and JSON-LD out of HTML, in time that grows with its length only: every letter is looked at a fixed number of
times, however the tags are broken. Nothing of a page is ever run.
"""

import html
import re
from collections.abc import Iterator

_BREAKS = frozenset({"br", "p", "li", "div"})
_DROPPED = frozenset({"script", "style"})
_NAME = re.compile(r"/?[a-z][a-z0-9]{0,20}")
_KIND = re.compile(r"""\btype\s{0,9}=\s{0,9}["']?\s{0,9}application/ld\+json\b""")
_ENDLESS_NUMBER = re.compile(r"&#[xX]?[0-9a-fA-F]{9,};?")


def _tags(text: str) -> Iterator[tuple[int, int, str]]:
    """Where each tag begins and ends, and its name in lower case (empty for comments and the like)."""
    at = 0
    while (start := text.find("<", at)) >= 0:
        named = _NAME.match(text[start + 1 : start + 24].lower())
        if named is None and not text.startswith(("<!", "<?"), start):
            at = start + 1  # “1 < 2” is no tag
            continue
        closing = "-->" if text.startswith("<!--", start) else ">"
        end = text.find(closing, start)
        if end < 0:
            return
        after = end + len(closing)
        yield start, after, named[0] if named else ""
        at = after


def unescaped(text: str) -> str:
    """Entities as letters; they are often escaped twice. A number of endless digits is none."""
    for _ in range(2):
        text = html.unescape(_ENDLESS_NUMBER.sub("\ufffd", text))
    return text


def without_tags(text: str) -> str:
    """The text between tags; what stands in scripts and styles goes with them."""
    parts: list[str] = []
    at, skipping = 0, ""
    for start, after, name in _tags(text):
        if skipping:
            if name == f"/{skipping}":
                at, skipping = after, ""
            continue
        parts.append(text[at:start])
        if name in _BREAKS:
            parts.append("\n")
        elif name in _DROPPED:
            skipping = name
        at = after
    if not skipping:
        parts.append(text[at:])
    return "".join(parts)


def json_ld_of(page: str, most: int) -> list[str]:
    """The contents of a page's first `most` JSON-LD scripts."""
    blocks: list[str] = []
    begun: int | None = None
    is_script = False
    for start, after, name in _tags(page):
        if is_script:
            if name == "/script":
                if begun is not None:
                    blocks.append(_bare(page[begun:start]))
                is_script, begun = False, None
                if len(blocks) >= most:
                    break
        elif name == "script":
            is_script = True
            begun = after if _KIND.search(page[start : min(after, start + 2000)].lower()) else None
    if begun is not None:
        blocks.append(_bare(page[begun:]))
    return [block for block in blocks if block]


def _bare(block: str) -> str:
    return block.strip().removeprefix("<![CDATA[").removesuffix("]]>").strip()
