"""A day at the table: what is said of boxes and of food besides. Imports the rooms of store and week."""
