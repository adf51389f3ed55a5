"""Promises about the code itself: documented errors, settings in the manual, no leftovers of one machine."""

import ast
import re
from pathlib import Path

import pytest

from goodcrate.settings import CHECKOUT, Settings

SRC = CHECKOUT / "src" / "goodcrate"


def raised_names(function: ast.FunctionDef) -> set[str]:
    """Errors a function raises itself, by class name; re-raises and inner functions do not count."""
    names = set()
    for node in ast.walk(function):
        if isinstance(node, ast.Raise) and isinstance(node.exc, ast.Call) and isinstance(node.exc.func, ast.Name):
            names.add(node.exc.func.id)
    return names


def public_functions(room: str) -> list[tuple[Path, ast.FunctionDef]]:
    return [
        (path, node)
        for path in sorted((SRC / room).rglob("*.py"))
        if "versions" not in path.parts
        for node in ast.walk(ast.parse(path.read_text()))
        if isinstance(node, ast.FunctionDef) and not node.name.startswith("_")
    ]


@pytest.mark.parametrize("room", ["core", "services", "formats"])
def test_public_functions_say_what_they_raise(room: str) -> None:
    silent = []
    for path, function in public_functions(room):
        doc = ast.get_docstring(function) or ""
        silent += [f"{path.name}:{function.name} {name}" for name in raised_names(function) if name not in doc]
    assert silent == []


@pytest.mark.parametrize("room", ["core", "db", "services", "jobs", "formats", "devices", "web", "demo"])
def test_everything_public_has_a_docstring(room: str) -> None:
    bare = []
    for path in sorted((SRC / room).rglob("*.py")):
        if "versions" in path.parts:
            continue
        tree = ast.parse(path.read_text())
        if path.read_text().strip() and not ast.get_docstring(tree):
            bare.append(path.name)
        for node in tree.body:
            is_public = isinstance(node, ast.FunctionDef | ast.ClassDef) and not node.name.startswith("_")
            if is_public and not ast.get_docstring(node):  # type: ignore[arg-type]
                bare.append(f"{path.name}:{node.name}")  # type: ignore[attr-defined]
    assert bare == []


def test_every_setting_stands_in_the_manual() -> None:
    manual = (CHECKOUT / "docs" / "architecture.md").read_text()
    for name in Settings.model_fields:
        assert f"GOODCRATE_{name.upper()}" in manual


def test_lock_files_name_no_hosts() -> None:
    for name in ("requirements.txt", "requirements-dev.txt", "requirements-uv.txt", "package-lock.json"):
        text = (CHECKOUT / name).read_text()
        assert not re.search(
            r'https?://(?!(opencollective|github|tidelift|www\.patreon)\b)[^" ]*registry|"resolved"', text
        )
    assert "--hash=sha256:" in (CHECKOUT / "requirements.txt").read_text()


def sources(*suffixes: str) -> list[Path]:
    """Our own code: what is built, shipped or a migration left out."""
    found = [p for place in ("src/goodcrate", "tests", "bench", "assets") for p in (CHECKOUT / place).rglob("*")]
    return [p for p in found if p.suffix in suffixes and not {"versions", "static"} & set(p.parts[:-1])]


def test_no_line_is_longer_than_a_screen() -> None:
    files = sources(".py", ".html", ".js", ".css")
    assert {p.suffix for p in files} == {".py", ".html", ".js", ".css"}
    wide = [
        f"{path.name}:{n}"
        for path in files
        for n, line in enumerate(path.read_text(encoding="utf-8").splitlines(), 1)
        if len(line) > 140 and path.name not in ("foods.py", "recipes.py")  # the demo's tables
    ]
    assert wide == []


def test_more_than_six_arguments_go_by_name() -> None:
    crowded = []
    for path in sources(".py"):
        for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
            if isinstance(node, ast.Call) and sum(not isinstance(a, ast.Starred) for a in node.args) > 6:
                name = node.func.attr if isinstance(node.func, ast.Attribute) else getattr(node.func, "id", "")
                if name != "select":  # columns are a list, however many
                    crowded.append(f"{path.name}:{node.lineno} {name}")
    assert crowded == []


def test_only_tables_keep_a_layout_of_their_own() -> None:
    """`fmt: skip` ends a literal or a table of cases; whatever calls and computes is formatted."""
    ours = []
    for path in sources(".py"):
        text = path.read_text(encoding="utf-8")
        skipped = {n for n, line in enumerate(text.splitlines(), 1) if line.rstrip().endswith("# fmt: skip")}
        if not skipped:
            continue
        tables = {
            node.end_lineno
            for node in ast.walk(ast.parse(text))
            if isinstance(node, (ast.Tuple, ast.List, ast.Dict, ast.Set, ast.Call))
            and (not isinstance(node, ast.Call) or getattr(node.func, "attr", getattr(node.func, "id", "")) in TABLES)
        }
        ours += [f"{path.name}:{n}" for n in sorted(skipped - tables)]
    assert ours == []


TABLES = {"parametrize", "frozenset"}


def test_every_folder_says_what_lives_there() -> None:
    silent = [
        str(path.relative_to(SRC))
        for path in SRC.rglob("__init__.py")
        if "versions" not in path.parts and not ast.get_docstring(ast.parse(path.read_text(encoding="utf-8")))
    ]
    assert silent == []
