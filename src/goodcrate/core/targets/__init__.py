"""What an eater should get on a day, and must not get at all. Imports ground, foods and recipes."""
