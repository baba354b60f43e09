"""Edits that carry documents of their own (recipes, pictures) are looked through like files that come from outside."""

from collections.abc import Iterable

from jaunty_lever.core.checks.soundness import recipe_problems
from jaunty_lever.core.edits import Batch, Edit, Refused
from jaunty_lever.core.edits.pictures import AddPicture, ChangePicture
from jaunty_lever.core.edits.recipes import ApplyRecipe
from jaunty_lever.formats.pictures import problem


def vet(edits: Iterable[Edit]) -> None:
    """Raises Refused when an edit carries something that could not be read from a file."""
    for edit in edits:
        if isinstance(edit, Batch):
            vet(edit.edits)
        elif isinstance(edit, ApplyRecipe):
            found = next(recipe_problems(edit.recipe), None)
            if found:
                raise Refused(f"This recipe is not sound: {found}", edit.recipe.id)
        elif isinstance(edit, AddPicture | ChangePicture):
            wrong = problem(edit.picture)
            if wrong:
                raise Refused(f"This picture cannot be taken in: {wrong}", edit.picture.id)
