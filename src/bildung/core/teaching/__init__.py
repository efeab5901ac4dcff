"""What answers say to whoever teaches."""
