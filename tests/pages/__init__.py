"""Pages that a person has labelled, and the score on them."""
