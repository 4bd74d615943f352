"""All Qt: the window, its stages, and the threads behind the picture."""
