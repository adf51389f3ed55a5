"""What is in the house. Imports week and below."""
