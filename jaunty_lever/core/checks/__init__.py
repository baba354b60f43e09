"""What the program notices by looking or computing."""
