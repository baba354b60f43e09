"""The shape of what pages send, as a JSON Schema: the scripts' types are made from it (`make assets`)."""

import json
from typing import Any

from jaunty_lever.core.edits import EDIT
from jaunty_lever.core.view.question import Question


def page_schema() -> dict[str, Any]:
    """A question, with its edits by their kinds alone: their fields are the edits' own business."""
    made = Question.model_json_schema()
    kinds = sorted(EDIT.json_schema()["discriminator"]["mapping"])
    edit = {
        "type": "object",
        "title": "Edit",
        "properties": {"kind": {"enum": kinds}},
        "required": ["kind"],
        "additionalProperties": True,
    }
    made["properties"]["edits"]["items"] = {"$ref": "#/$defs/Edit"}
    made["$defs"] = {"Edit": edit, "Curves": made["$defs"]["Curves"]}
    return made


if __name__ == "__main__":
    print(json.dumps(page_schema()))
