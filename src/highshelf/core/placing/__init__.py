"""Placing: which way to bring files over, what may stand at the target, what must be equal afterwards."""
