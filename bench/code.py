"""The code as somebody new meets it: how long files and functions are, how much of it is tests. Printed, judged by eye.

`python -m bench.code`
"""

import ast
import statistics
from collections.abc import Iterable, Sequence
from pathlib import Path

ROOT = Path(__file__).parents[1]
OURS = {".py": ("src/goodcrate", "tests", "bench"), ".html": ("src/goodcrate/web",), ".js": ("assets/js",)}
LONG = 140
"""No line of code is longer, tables of data apart."""


def files(suffix: str) -> list[Path]:
    """Our own files of a kind: built and shipped ones left out, and the tables of the migrations."""
    found = [p for place in OURS[suffix] for p in (ROOT / place).rglob(f"*{suffix}")]
    return sorted(p for p in found if ".min." not in p.name and "versions" not in p.parts)


def lines_of(path: Path) -> list[str]:
    """A file's lines."""
    return path.read_text(encoding="utf-8").splitlines()


def functions(path: Path) -> Iterable[int]:
    """How many lines each function of a module has, its docstring apart."""
    for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
        if isinstance(node, (ast.FunctionDef, ast.AsyncFunctionDef)):
            said = node.body[0] if ast.get_docstring(node) is not None else None
            docstring = 0 if said is None else (said.end_lineno or said.lineno) - said.lineno + 1
            yield (node.end_lineno or node.lineno) - node.lineno + 1 - docstring


def spread(sizes: Iterable[int]) -> str:
    """Median, ninth decile and largest."""
    ordered: Sequence[int] = sorted(sizes)
    return f"{statistics.median(ordered):.0f} / {ordered[len(ordered) * 9 // 10]} / {ordered[-1]}"


def main() -> None:
    """Print the table."""
    modules = [p for p in files(".py") if "src" in p.parts]
    sizes = [size for p in modules if (size := len(lines_of(p)))]
    print(f"  lines of a module, median / p90 / max      {spread(sizes)}")
    print(f"  lines of a function                        {spread(n for p in modules for n in functions(p))}")
    everything = [p for suffix in OURS for p in files(suffix)]
    total = sum(len(lines_of(p)) for p in everything)
    tests = sum(len(lines_of(p)) for p in everything if "tests" in p.parts)
    print(f"  share of tests in our {total:,} lines      {tests / total:.0%}")
    for suffix in OURS:
        long = [len(line) for p in files(suffix) for line in lines_of(p) if len(line) > LONG]
        print(f"  lines over {LONG} in {suffix:5}                   {len(long)}, the longest {max(long, default=0)}")
    skipped = sum("fmt: skip" in line for p in files(".py") for line in lines_of(p))
    print(f"  fmt: skip                                  {skipped}")


if __name__ == "__main__":
    main()
