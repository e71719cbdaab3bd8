"""Conversations in Debian's Chromium, for pages that are only there once their scripts have run."""
