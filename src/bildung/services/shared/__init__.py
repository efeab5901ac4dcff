"""What every station needs: who may, what was done, the store and the clock, errors, jobs, imports in two steps."""
