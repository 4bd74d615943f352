"""Files in and out: one file for each format, and a registry of them."""
