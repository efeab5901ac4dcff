"""What the server does by itself, how long things are kept, and a student whose record is handed out or erased."""
