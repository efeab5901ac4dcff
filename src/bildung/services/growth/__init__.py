"""Growth: measures, their scores and norms, and what two windows say."""
