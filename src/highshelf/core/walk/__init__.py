"""The conversation with an application's installer: page + values + history -> next move. Pure."""
