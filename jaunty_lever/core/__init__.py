"""The job itself: documents, the mathematics of motion, evaluation, geometry and edits.

Nothing in here knows the web, the database or a drawing library.
"""

from . import motion as motion  # completes the recursive document models
