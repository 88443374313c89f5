"""Every module in this folder is one treatment; importing the package registers them all."""

from importlib import import_module
from pkgutil import iter_modules

from .base import STAGES, TREATMENTS, WISHES, AtTouch, Treatment, TreatmentParams

for module in iter_modules(__path__):
    import_module(f"{__name__}.{module.name}")

__all__ = ["STAGES", "TREATMENTS", "WISHES", "AtTouch", "Treatment", "TreatmentParams"]
