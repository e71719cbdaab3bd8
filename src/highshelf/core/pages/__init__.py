"""Pages: a Snapshot in, its meaning out. Nothing here knows an application or opens a socket."""
