"""Web addresses: conversations with cookies, an override of where a name leads, and a closed list of origins."""
