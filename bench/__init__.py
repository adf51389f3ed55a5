"""Measurements, printed; nothing here passes or fails. Run them with `./crate bench`."""
