"""What each report says: the same figures as the pages, as a document to print or to put on sheets."""
