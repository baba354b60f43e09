"""The commands of the command line, by what they have to load."""
