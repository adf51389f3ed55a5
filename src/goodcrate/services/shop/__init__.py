"""What a week has to buy. Imports week and below."""
