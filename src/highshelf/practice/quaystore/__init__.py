"""Quaystore, a demo application: a shop whose setup is partly JavaScript and JSON, and how its release archive is built."""
