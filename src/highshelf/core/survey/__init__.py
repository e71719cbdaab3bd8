"""The survey of a hosting account: everything that later steps rely on, each line with how it was found out."""
