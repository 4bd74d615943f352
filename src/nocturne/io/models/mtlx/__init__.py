"""MaterialX: materials of documents in and out, by the standard's own library."""
