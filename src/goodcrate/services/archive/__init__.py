"""The household's data in its own hands: one archive out, looked through, put in its place, and taken back."""
