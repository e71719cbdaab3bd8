"""The garden: installers that nobody wrote by hand, composed from traits, with the truth of each."""
