"""Calendar: what a school has to test with, and its plan of a window from the first wish to published sessions."""
