"""Ingredient lines as cooks write them, understood: how much of which food, what is unsure, and what else is offered.

May import the ground and the foods beside it; needs no database and no household.
"""
