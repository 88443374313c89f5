"""Compiling everything once: importing a kernel compiles it for its signatures; the ray caster is run on a tiny frame.

A program of its own, since the command line imports kernels and would compile them by itself, one after the other.
"""

import multiprocessing
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor, as_completed
from importlib import import_module
from pkgutil import iter_modules

from umbrax.core import kernels

JOINS = "umbrax.core.joins"  # by its name: to import it here would compile it before the others begin


def warm_everything(say: Callable[[str], None]) -> None:
    """Compile every kernel and cast one small frame, on all processors; quick when the compiled code is already on disk."""
    with ProcessPoolExecutor(mp_context=multiprocessing.get_context("spawn")) as pool:
        # the caster first: it takes longest, and compiles on its way the kernels it uses itself
        jobs = {pool.submit(_cast): "stand-in: ray caster"}
        for module in iter_modules(kernels.__path__):
            jobs[pool.submit(_compile, f"{kernels.__name__}.{module.name}")] = f"kernels: {module.name}"
        # the joins at once: their loops are made by a few factories
        jobs[pool.submit(_compile, JOINS)] = "joins"
        for job in as_completed(jobs):
            job.result()
            say(jobs[job])


def _compile(name: str) -> None:
    import_module(name)
    for loop in kernels.LATER:
        loop.compiled()


def _cast() -> None:
    from .exr import channels_of
    from .frames import render
    from .ink import ink_lines
    from .scene import observatory

    ink_lines(picture := render(observatory(1001), 64, 36))
    channels_of(picture)


if __name__ == "__main__":
    warm_everything(lambda name: print(f"  {name}"))
