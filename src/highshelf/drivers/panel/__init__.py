"""Control panels with HTML forms, driven by a primer and the same reading of pages as installers."""
