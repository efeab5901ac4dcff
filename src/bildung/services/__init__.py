"""One module per job a person does. Each function takes who asks first; access is its first line."""
