"""The live round: a question put to a class, answered at once on the devices that are there."""
