"""The tests: unittest throughout, the real interface through Playwright."""
