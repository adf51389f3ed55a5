"""Migrations of the tables, one file each; the first makes them all. Imports Alembic only."""
