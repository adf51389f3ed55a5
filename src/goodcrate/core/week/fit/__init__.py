"""Portions moved into the bands of their days. Imports week and below."""
