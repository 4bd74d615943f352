"""List, sheet and foot of each stage."""
