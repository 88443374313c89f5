"""Text as outlines."""
