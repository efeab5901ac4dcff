"""QTI packages: 3.0 in and out, 2.1 and 2.2 in."""

from bildung.formats.qti.packages import is_package, read_package, write_package
from bildung.formats.qti.write import package_misses

__all__ = ["is_package", "package_misses", "read_package", "write_package"]
