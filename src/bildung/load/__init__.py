"""Load as a school brings it: a server of its own, and devices that share no code with it."""
