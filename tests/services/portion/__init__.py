"""Tests of portioning."""
