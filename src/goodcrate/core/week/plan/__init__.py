"""Empty slots filled: the model, its check by other means, and why no week was found. Imports week and below."""
