"""The calendar in the browser: what a school tests with, a window planned, changed and published."""
