"""The answers of sessions as the core reads them, and what items did each time."""
