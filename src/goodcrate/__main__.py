"""`python -m goodcrate`: the command line."""

from goodcrate.cli import app

app(prog_name="crate")
