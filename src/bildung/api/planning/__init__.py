"""Routes of the calendar: resources of a school, plans of windows."""
