"""Controls that are ours, each built once and used everywhere."""
