"""All tests. Hashing a password is cheap here (tests/services/door says that it is dear elsewhere), and no example of a
property is late."""

import hypothesis
from argon2 import PasswordHasher

from bildung.services.shared import passwords

passwords._hasher = PasswordHasher(time_cost=1, memory_cost=8, parallelism=1)
hypothesis.settings.register_profile("generous", deadline=None)
hypothesis.settings.load_profile("generous")
