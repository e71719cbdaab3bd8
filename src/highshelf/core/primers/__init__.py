"""Primers: what is special about an application or a panel, as YAML with a published schema."""
