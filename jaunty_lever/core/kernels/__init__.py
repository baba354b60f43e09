"""Compiled mathematics that several parts of the core share."""
