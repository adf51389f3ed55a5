"""Cooking as it was recorded. Imports week and below."""
