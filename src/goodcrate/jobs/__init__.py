"""The worker: a process of its own that does long work of any kind. Imports services; nothing imports it."""
