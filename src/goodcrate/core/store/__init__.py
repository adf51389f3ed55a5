"""What is in the house and is eaten first. Imports portion and below."""
