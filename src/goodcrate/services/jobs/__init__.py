"""Long work: asked for, watched, stopped, and what its worker says while it lives. Imports db and core only."""
