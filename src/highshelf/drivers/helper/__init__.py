"""The host helper: a small PHP file that does what a shell would, where there is none."""
