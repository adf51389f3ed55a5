"""Eaters and their targets. Imports foods and what that imports."""
