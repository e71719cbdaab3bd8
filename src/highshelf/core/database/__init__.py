"""Databases: SQL dumps cut into statements as the servers' own clients cut them, and which of a release's dumps belong in."""
