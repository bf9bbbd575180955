"""The guide's Markdown as the page shows it: headings, paragraphs, bold, italic, code and pictures, which is all that the guide is written in."""

from __future__ import annotations

import html
import re
from collections.abc import Iterator

_PICTURE = re.compile(r"!\[(?P<alt>[^\]]*)\]\((?:[\w./-]*/)?(?P<file>[\w.-]+\.png)\)")
_MARKS = (
    (re.compile(r"`([^`]+)`"), r"<code>\1</code>"),
    (re.compile(r"\*\*(.+?)\*\*", re.S), r"<b>\1</b>"),
    (re.compile(r"(?<![\w*])\*(?!\s)(.+?)(?<!\s)\*(?![\w*])", re.S), r"<i>\1</i>"),
)


def chapters_of(text: str) -> list[str]:
    """The titles of the chapters, in order."""
    return re.findall(r"^## (.+)$", text, re.M)


def page_of(text: str, picture_wide: int) -> str:
    """The whole guide as HTML, each chapter with an anchor of its title; pictures so many px wide, found by their file's name."""
    return "\n".join(_blocks(text, picture_wide))


def _blocks(text: str, wide: int) -> Iterator[str]:
    for block in re.split(r"\n\s*\n", text.strip()):
        head, _, rest = block.partition("\n")
        if (found := re.match(r"(#{1,3}) (.+)", head)) is not None:
            level, title = len(found[1]), html.escape(found[2], quote=False)
            yield f'<h{level}><a name="{html.escape(found[2])}"></a>{title}</h{level}>'
            if rest.strip():
                yield f"<p>{_inline(rest)}</p>"
        elif (picture := _PICTURE.fullmatch(block.strip())) is not None:
            yield f'<p><img src="{picture["file"]}" width="{wide}" alt="{html.escape(picture["alt"])}"></p>'
        else:
            yield f"<p>{_inline(block)}</p>"


def _inline(text: str) -> str:
    text = html.escape(text, quote=False)
    for mark, made in _MARKS:
        text = mark.sub(made, text)
    return text
