"""The picture."""
