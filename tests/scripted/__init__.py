"""Installers that are drawn by scripts, by hand."""
