"""What a week was: planned against weighed against eaten."""
