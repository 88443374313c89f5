"""The fast loops, by what they do.

Every kernel is compiled for the signatures it declares and for no others, so a new array kind fails loudly instead of
costing a compile. `ready` is the boundary in front of them: layout, dtype and writability are settled there; `in_rows` for what is
read where it lies.
A kernel's jitted parts stay in its file: the compiled-code cache looks at one file only. What several need is in
`vectors`; bin/setup empties that cache when any of them changed.
"""

import math
import threading
from collections.abc import Callable
from typing import Any, TypeVar

import numba
import numpy as np
from llvmlite import binding
from numpy.typing import NDArray


def _configure(**settings: str | bool) -> None:
    for name, value in settings.items():
        setattr(numba.config, name, value)


# workqueue is not safe from many threads; omp is, as long as nobody forks after the first kernel ran
_configure(THREADING_LAYER="omp")
if "+avx512f" in (features := binding.get_host_cpu_features().flatten()):
    # these loops gain more from sixteen lanes than the processor's clock loses by them
    _configure(CPU_FEATURES=f"{features},-prefer-256-bit")

Function = TypeVar("Function", bound=Callable[..., Any])
LINE = 16  # floats
KERNELS: dict[str, Any] = {}


def kernel(*signatures: Any, contract: bool = False, four: bool = False) -> Callable[[Function], Function]:
    """Compile a loop for exactly these signatures: no interpreter lock, cached on disk, IEEE division.

    `contract` lets a product and the sum it goes into be rounded once; nothing is reordered. `four`: what is written out for the four
    values of a pixel is done at once (superword-level parallelism), where neighbours in a row are not.
    """

    def compiled(function: Function) -> Function:
        fast: Any = {"contract"} if contract else False
        compiler: Any = numba.njit(list(signatures), cache=True, nogil=True, parallel=True, error_model="numpy", fastmath=fast)
        _configure(SLP_VECTORIZE=four)
        typed: Function = compiler(function)
        _configure(SLP_VECTORIZE=False)
        KERNELS[f"{function.__module__}.{function.__name__}"] = typed
        return typed

    return compiled


def row_kernel(signature: Any) -> Callable[[Function], Function]:
    """Compile a loop over neighbours in a row for this signature, to be run by a kernel over all of a picture; it may round a product
    and a sum at once."""

    def compiled(function: Function) -> Function:
        compiler: Any = numba.njit(signature, cache=True, nogil=True, error_model="numpy", fastmath={"contract"})
        typed: Function = compiler(function)
        KERNELS[f"{function.__module__}.{function.__name__}"] = typed
        return typed

    return compiled


class WhenAsked:
    """A loop over neighbours that is compiled, or loaded, when it is first run: of many alike a program runs a few.

    `run(loop, *what)` runs the compiled loop over all of a picture.
    """

    def __init__(self, loop: Callable[..., Any], signature: Any, run: Callable[..., Any]):
        self._loop, self._signature, self._run = loop, signature, run
        self._lock = threading.Lock()
        self._compiled: Any = None
        LATER.append(self)

    def compiled(self) -> Any:
        with self._lock:
            if self._compiled is None:
                self._compiled = row_kernel(self._signature)(self._loop)
            return self._compiled

    def __call__(self, *what: Any) -> Any:
        return self._run(self._compiled or self.compiled(), *what)


LATER: list[WhenAsked] = []


def part(function: Function) -> Function:
    """A piece of a kernel in the same file, inlined by the compiler."""
    compiler: Any = numba.njit(nogil=True, error_model="numpy", inline="always")
    inlined: Function = compiler(function)
    return inlined


def called_part(function: Function) -> Function:
    """A piece of a kernel in the same file that is called, and makes no arrays: for what stands in many places and runs over no row.
    Every place that a `part` is put into takes the compiler's time."""
    compiler: Any = numba.njit
    typed: Function = compiler(nogil=True, error_model="numpy", _nrt=False)(function)
    return typed


def ready(array: NDArray[Any], dtype: Any = np.float32) -> NDArray[Any]:
    """The array as kernels want it: contiguous, aligned, writable kind, of this dtype; copied only where it is not."""
    result = np.ascontiguousarray(array, dtype)
    if not result.flags.writeable or not result.flags.aligned:
        result = result.copy()
    return result


def blocks_of(rows: int) -> int:
    """Into how many parts a kernel cuts its rows, with memory to work in for each: as many as there are threads. Were it taken in every
    turn, threads would wait for one another."""
    return max(1, min(numba.get_num_threads(), rows))


def in_rows(planes: NDArray[Any], dtype: Any = np.float32) -> tuple[NDArray[Any], int, int]:
    """Planes `[n, h, w]` for a kernel that reads them row by row where they lie: as one line of numbers, and how far in it the next plane
    and the next row begin. They may be some of many, or a window of larger ones: copied are only those whose rows are not in one piece."""
    size = np.dtype(dtype).itemsize
    together = planes.dtype == dtype and planes.flags.writeable and planes.flags.aligned and planes.strides[2] == size
    if not together or any(step < 0 or step % size for step in planes.strides):
        planes = ready(planes, dtype)
    n, height, width = planes.shape
    next_plane, next_row = planes.strides[0] // size, planes.strides[1] // size
    length = (n - 1) * next_plane + (height - 1) * next_row + width if planes.size else 0
    return np.lib.stride_tricks.as_strided(planes, (length,), (size,)), next_plane, next_row


def blank(*shape: int) -> NDArray[np.float32]:
    """A new float32 array with nothing in it yet; it begins on a cache line, which halves the cost of wide vectors."""
    raw = np.empty(math.prod(shape) + LINE, np.float32)
    start = -(raw.__array_interface__["data"][0] // raw.itemsize) % LINE
    return raw[start : start + math.prod(shape)].reshape(shape)
