"""Tests of browser."""
