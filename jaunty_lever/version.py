"""Which version of the program this is."""

__version__ = "0.1.0"
