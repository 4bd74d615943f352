"""What the user made: a frozen document, pure edits of it, and its history. No arrays computed, no Qt."""
