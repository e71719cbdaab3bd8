"""Files in memory: the seam for tests of legs, and for users of High Shelf as a library."""

from highshelf.drivers.memory.files import MemoryFiles

__all__ = ["MemoryFiles"]
