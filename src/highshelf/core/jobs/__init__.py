"""Job kinds: which legs make up which kind of job."""
