"""Good Crate: a week of boxed meals, weighed, computed and divided at home."""

__version__ = "0.1.0"
