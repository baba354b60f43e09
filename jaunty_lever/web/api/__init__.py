"""The interface for programs, and for the pages themselves."""
