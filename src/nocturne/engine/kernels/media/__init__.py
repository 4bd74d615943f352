"""Media: what fills closed shapes."""
