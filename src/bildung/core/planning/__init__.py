"""Planning a testing window: sessions with day, block, room and proctor, for every test that is owed; see docs/planning.md."""
