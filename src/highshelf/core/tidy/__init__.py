"""Tidying: which files an installation made for itself, and how tight their modes may be."""
