"""Moorings, a demo application: a membership programme in two archives with a licence key, and how they are built."""
