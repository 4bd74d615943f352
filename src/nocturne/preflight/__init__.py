"""Preflight: what is probably wrong with a project, each finding with ways to mend it."""
