"""Batches started and weighed in. Imports week and below."""
