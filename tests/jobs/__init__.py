"""Tests of the worker."""
