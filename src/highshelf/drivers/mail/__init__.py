"""Mail, out of the house."""
