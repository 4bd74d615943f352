"""A render as a job: what is asked for, what comes of it, and what is kept meanwhile to go on from."""
