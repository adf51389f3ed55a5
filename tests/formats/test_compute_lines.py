"""`crate compute lines` from the command line, and the shipped tables it understands lines with."""

import json
from pathlib import Path

import jsonschema
import pytest
from typer.testing import CliRunner

from bench.lines import judge, load_lines
from goodcrate.cli import app
from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.formats import line_words
from goodcrate.formats.compute_lines import compute_lines
from goodcrate.formats.schemas import schema_text


def test_lines_of_a_file_are_understood_in_their_order(tmp_path: Path) -> None:
    file = tmp_path / "lines.txt"
    file.write_text("2 onions\n\n  1 mug of rice\n200 g moonshine\n", encoding="utf-8")
    done = CliRunner().invoke(app, ["compute", "lines", str(file)])
    assert done.exit_code == 0
    onions, rice, moonshine = json.loads(done.output)
    jsonschema.validate(json.loads(done.output), json.loads(schema_text("lines-result")))
    assert (onions["line"], onions["key"], onions["asks"]) == ("2 onions", "onion_raw", False)
    assert rice["asks"]
    assert "mug" in rice["why"]
    assert (moonshine["key"], moonshine["grams"], moonshine["offers"]) == (None, None, [])


def test_too_many_lines_are_refused() -> None:
    with pytest.raises(InvalidInput, match="301 lines"):
        compute_lines("1 egg\n" * 301)


def test_everyday_lines_are_understood_as_a_cook_means_them() -> None:
    rows = load_lines()
    judged = [
        judge(row, found) for row, found in zip(rows, compute_lines("\n".join(r.line for r in rows)).root, strict=True)
    ]
    points = sum(one.points for one in judged) / len(judged)
    assert points >= 0.96
    assert not [one.line for one in judged if one.verdict == "wrong food"]
    assert sum(one.verdict == "wrong amount" for one in judged) <= 1


def test_a_wrong_answer_is_judged_wrong() -> None:
    row = next(r for r in load_lines() if r.line == "Onion x 2")
    (right,) = compute_lines("Onion x 2").root
    assert judge(row, right).verdict == "right"
    assert judge(row, right.model_copy(update={"key": "onion_powder"})).verdict == "wrong food"
    assert judge(row, right.model_copy(update={"grams": 2.0})).verdict == "wrong amount"
    assert judge(row, right.model_copy(update={"asks": True})).verdict == "asks needlessly"


def test_the_tables_are_checked_row_by_row(monkeypatch: pytest.MonkeyPatch) -> None:
    bad = {
        "pieces.csv": [{"food": "egg", "unit": "piece", "grams": "-3", "error_pct": "8"}],
        "bulk.csv": [{"food": "oat", "g_per_ml": "much", "error_pct": "10"}],
        "aliases.csv": [{"alias": "oats", "key": "no_such_food"}, {"alias": "oats", "key": "rolled_oats_dry"}],
    }
    monkeypatch.setattr(line_words, "read_table", lambda name: iter(bad[name]))
    with pytest.raises(InvalidInputs) as caught:
        line_words.size_table.__wrapped__()
    assert {f.field for f in caught.value.faults} == {"egg.grams", "oat.g_per_ml"}
    with pytest.raises(InvalidInputs) as caught:
        line_words.aliases.__wrapped__()
    assert len(caught.value.faults) == 2
