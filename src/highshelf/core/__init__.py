"""The core decides: values, decisions, errors, ports. No I/O, no framework, no engine."""
