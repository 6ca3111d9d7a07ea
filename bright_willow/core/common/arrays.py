"""The array type of the core: 64-bit floats."""

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
