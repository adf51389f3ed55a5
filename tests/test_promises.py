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
        for path in sorted((SRC / room).glob("*.py"))
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


@pytest.mark.parametrize("room", ["core", "db", "services", "formats", "web", "demo"])
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
