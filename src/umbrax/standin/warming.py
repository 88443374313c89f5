"""Compiling everything once: importing a kernel compiles it for its signatures; the ray caster is run on a tiny frame."""

from collections.abc import Callable
from importlib import import_module
from pkgutil import iter_modules

from umbrax.core import kernels


def warm_everything(say: Callable[[str], None]) -> None:
    """Import every kernel module and cast one small frame; quick when the compiled code is already on disk."""
    for module in iter_modules(kernels.__path__):
        say(f"kernels: {module.name}")
        import_module(f"{kernels.__name__}.{module.name}")
    from .exr import channels_of
    from .frames import render
    from .ink import ink_lines
    from .scene import observatory

    say("stand-in: ray caster")
    ink_lines(picture := render(observatory(1001), 64, 36))
    channels_of(picture)
