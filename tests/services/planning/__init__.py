"""Resources of a school, its plan of a window, hand moves, publishing."""
