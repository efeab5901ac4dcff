"""Names for the array types of the core."""

from typing import TypeAlias

import numpy as np
import numpy.typing as npt

FloatArray: TypeAlias = npt.NDArray[np.float64]
IntArray: TypeAlias = npt.NDArray[np.int64]
BoolArray: TypeAlias = npt.NDArray[np.bool_]
CodeArray: TypeAlias = npt.NDArray[np.uint8] | npt.NDArray[np.int32]
