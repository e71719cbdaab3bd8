"""Looks at a host from the network."""
