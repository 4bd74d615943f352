"""What mouse and keys do over the picture, a file for each way of using it."""
