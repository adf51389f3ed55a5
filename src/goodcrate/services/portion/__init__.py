"""Pots and boxes filled. Imports cook and below."""
