"""What an item is: its versions whole, its texts and pictures, the verdicts that hold of it."""
