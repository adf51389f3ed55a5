"""Weeks: their pictures, meals placed and moved, planned, fitted, repeated. Imports the stages before it, and store."""
