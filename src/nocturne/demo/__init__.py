"""The demo project, The Orrery Workshop, built from parameters."""
