"""The order counter: a panel of another kind, which is called and answers in JSON, chooses names itself, and takes its time."""
