"""The command that hands over the story of an instrument: a page, the same as JSON, and the photos, in one folder."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from grainet.session.shop import Shop
    from grainet.work.story import Story


def add_to(commands: Any) -> None:
    """Add it to the program's commands."""
    story = commands.add_parser("story", help="the story of an instrument: every board, joint and offcut, as a page and as JSON")
    story.add_argument("shop", type=Path)
    story.add_argument("build", help="the id of the build, or its name")
    story.add_argument("--out", type=Path, required=True, help="a folder; it is made where it is not there")
    story.set_defaults(run=_story)


def photos_of(shop: Shop, story: Story) -> dict[str, bytes]:
    """The originals of a story's photos that can be read."""
    from grainet.store.photos import read_photo

    found = {}
    for sha in story.photos:
        try:
            found[sha] = read_photo(shop.file.folder, sha)
        except OSError:
            continue
    return found


def _story(options: argparse.Namespace) -> int:
    from grainet.exchange.json_file import Unusable
    from grainet.exchange.story_file import write_story
    from grainet.session.shop import Shop
    from grainet.session.stories import story_of, told_instruments

    with Shop.open(options.shop, read_only=True) as shop:
        told = told_instruments(shop)
        design = next((d for d, name, _ in told if options.build in (d, name)), None)
        story = story_of(shop, design) if design is not None else None
        if story is None:
            there = ", ".join(f"{d} ({name})" for d, name, _ in told) or "none"
            raise Unusable([f"found {options.build!r}, needs a build whose plan is kept; there are: {there}"])
        files = write_story(options.out, story, photos_of(shop, story))
    print(f"{story.name}: {len(story.boards)} boards, {len(story.joints)} joints, {len(files)} files")
    return 0
