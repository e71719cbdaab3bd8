"""Seedledger, a demo application: a seed library with its web folder below the root, and how its release archive is built."""
