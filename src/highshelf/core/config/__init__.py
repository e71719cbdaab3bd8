"""Configuration files of any format behind one seam: find what can be set, set it, keep every other byte."""
