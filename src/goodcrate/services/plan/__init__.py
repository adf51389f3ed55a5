"""Planning a week: its problem, the job that plans it, and what the weeks it finds cost. Imports shop and below."""
