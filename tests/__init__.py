"""The tests: unittest throughout, the real interface through Playwright."""

from hypothesis import settings

# No test asserts a time, and the first of its examples may wait until a kernel is compiled.
settings.register_profile("tests", deadline=None)
settings.load_profile("tests")
