"""The foods of a kitchen: found, taught, labelled, in and out as files. Imports db, formats, core."""
