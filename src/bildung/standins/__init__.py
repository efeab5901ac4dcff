"""Small simulated outside services that ship with the application, for its demo and its tests."""
