"""Umbrax combines rendered 3D passes into finished shots."""

__version__ = "0.1.0"
