"""Open formats in and out, and the shipped reference tables. Knows core's value types only."""
