"""Proof: what counts as a working front page, a login that works, a file that is not served."""
