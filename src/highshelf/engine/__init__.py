"""The engine: wakes jobs, runs their legs step by step, waits for answers. The journal is the truth, not the engine."""
