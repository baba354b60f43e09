"""Layout of templates: what is written over several lines is sent as if it stood on one.

White space with a line break in it is layout, and not sent: so elements may stand on lines of their own, indented, and
still touch. Between words it is one space, so that prose may be broken where it is long, and within a tag it parts the
attributes. Spaces without a line break stand for themselves; one that is wanted at the end of a line is `{{ " " }}`.
"""

import re

from jinja2.ext import Extension

#: What a template is made of: comments, statements and expressions of Jinja, tags up to their name, all else.
_PARTS = re.compile(
    r"(?P<jinja>\{#.*?#\}|\{%.*?%\}|\{\{.*?\}\})|(?P<tag></?[A-Za-z!][\w:-]*)|(?P<space>\s+)|(?P<other>[^\s{<>\"']+|.)",
    re.DOTALL,
)
#: Elements whose white space is their own.
_KEPT = frozenset({"script", "style", "pre", "textarea"})


def _broken(space: str, sent: str) -> str:
    """What is sent in place of white space with line breaks. They go on to count, in a comment: errors tell their
    line."""
    return sent + "{#" + "\n" * space.count("\n") + "#}"


def laid_out(source: str) -> str:
    """The template without its layout, with as many lines as before.

    >>> laid_out("<p>\\n  two\\n  words\\n</p>").replace("{#\\n#}", "")
    '<p>two words</p>'
    """
    parts = list(_PARTS.finditer(source))
    made: list[str] = []
    name = quote = whole = ""
    for position, part in enumerate(parts):
        text, kind = part.group(), part.lastgroup
        if whole:
            if text.lower() == f"</{whole}":
                whole, name = "", text
        elif kind == "space" and "\n" in text:
            text = _broken(text, " " if quote or _parted(parts, position, bool(name)) else "")
        elif kind == "tag" and not name:
            name = text
        elif kind == "other" and name:
            if quote:
                quote = "" if text == quote else quote
            elif text in ("'", '"'):
                quote = text
            elif text == ">":
                whole = name[1:].lower() if name[1:].lower() in _KEPT else ""
                name = ""
        made.append(text)
    return "".join(made)


def _parted(parts: list[re.Match[str]], position: int, within: bool) -> bool:
    """Whether a line break parts two attributes of a tag, or two words of a text."""
    if not 0 < position < len(parts) - 1:
        return False
    before, after = parts[position - 1], parts[position + 1]
    if within:
        return after.group() not in (">", "/")
    return before.group() != ">" and _said(before) and _said(after)


def _said(part: re.Match[str]) -> bool:
    """Whether it is something to read: words, or an expression."""
    return part.lastgroup == "other" or part.group().startswith("{{")


class Layout(Extension):
    """Templates of an environment are sent without their layout."""

    def preprocess(self, source: str, name: str | None, filename: str | None = None) -> str:
        """What Jinja reads in place of a template's text."""
        return laid_out(source)
