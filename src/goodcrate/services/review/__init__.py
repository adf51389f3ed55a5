"""A week looked back on."""
