"""What the core raises when it is asked for something it must not guess."""


class Refused(ValueError):
    """A request that cannot be met as put; the message says what was wrong and what is allowed."""
