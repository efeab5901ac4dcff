"""Questions put to a class at once: what was answered, what changed after talk, which question comes next."""
