"""Coming in: signing in, passwords, the provider, a new installation."""
