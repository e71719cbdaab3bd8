"""The seven legs of an install job, written against the ports."""
