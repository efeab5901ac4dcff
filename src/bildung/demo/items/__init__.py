"""The demo's further items: kindergarten to grade 5, science, and every kind of item for grades 6 to 8."""
