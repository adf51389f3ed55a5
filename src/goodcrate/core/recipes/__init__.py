"""Recipes: weights, steps, keeping, another size, variants, what looks wrong. Imports ground and foods."""
