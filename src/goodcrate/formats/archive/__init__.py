"""The household archive: a zip of documented JSON lines, beside them what other programs read (docs/archive.md)."""
