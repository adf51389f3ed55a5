"""The week: who eats what when, which batches follow, where boxes wait. Imports the stages before it."""
