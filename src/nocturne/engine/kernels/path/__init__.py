"""The path: from the camera to the lights, one sample after another."""
