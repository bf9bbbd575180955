"""The story of an instrument as a folder to hand over: a page that opens without a network, the same told as JSON, and the photos.

The page is one HTML file with its style and its drawings in it; nothing is loaded from anywhere, and no script runs.
"""

from __future__ import annotations

import json
from collections.abc import Iterator, Mapping
from html import escape
from pathlib import Path

from grainet.chart.colours import ON_PAPER
from grainet.exchange.json_file import write_bytes, write_text
from grainet.wood.units import format_length
from grainet.work.story import Story, StoryBoard

PAGE, STORY, PHOTOS = "index.html", "story.json", "photos"
WIDE = 640.0  # px of a board's drawing
SHARE_WORDS = {"parts": "in it", "offcuts": "kept", "kerf": "kerf", "skims": "planed off", "waste": "scrap"}
STYLE = f"""
body {{ font: 16px/1.5 sans-serif; color: {ON_PAPER["ink"]}; background: {ON_PAPER["bench"]}; max-width: 860px; margin: 40px auto; padding: 0 20px; }}
h1 {{ font-size: 34px; margin: 0; }} h2 {{ font-size: 20px; margin: 36px 0 8px; }} h3 {{ font-size: 17px; margin: 24px 0 2px; }}
p {{ margin: 2px 0; }} .less {{ color: {ON_PAPER["ink2"]}; }} .lacks {{ color: {ON_PAPER["ochre"]}; }} table {{ border-collapse: collapse; }} td {{ padding: 2px 16px 2px 0; vertical-align: top; }}
img {{ max-width: 400px; margin: 6px 12px 6px 0; }} svg {{ display: block; margin: 6px 0; }} @media print {{ body {{ margin: 0; }} h3, svg {{ break-inside: avoid; }} }}
"""


def write_story(folder: Path, story: Story, photos: Mapping[str, bytes]) -> list[str]:
    """The folder; the names of the files in it. ``photos`` are pictures by the names of their originals; those that are no picture are left
    out. Raises Unusable."""
    told = story.told()
    names = {sha: f"{sha[:16]}.{kind}" for sha, data in photos.items() if (kind := kind_of(data))}
    shown = set(told.photos) & names.keys()
    (folder / PHOTOS).mkdir(parents=True, exist_ok=True)
    for sha in sorted(shown):
        write_bytes(folder / PHOTOS / names[sha], photos[sha])
    write_text(folder / PAGE, page_of(told, {sha: names[sha] for sha in shown}))
    data = told.model_dump(mode="json", exclude_defaults=False)
    write_text(folder / STORY, json.dumps(data, indent=1, ensure_ascii=False) + "\n")
    return [PAGE, STORY, *(f"{PHOTOS}/{names[sha]}" for sha in sorted(shown))]


def kind_of(data: bytes) -> str:
    """The ending of a picture file by how it begins; empty for what is none."""
    for begin, kind in ((b"\xff\xd8\xff", "jpg"), (b"\x89PNG\r\n\x1a\n", "png"), (b"GIF8", "gif"), (b"BM", "bmp")):
        if data.startswith(begin):
            return kind
    return "webp" if data[:4] == b"RIFF" and data[8:12] == b"WEBP" else ""


def page_of(story: Story, photos: Mapping[str, str]) -> str:
    """The page; ``photos`` gives the file of each original."""
    body = "\n".join(_body(story, photos))
    return f'<!DOCTYPE html>\n<html lang="en">\n<head>\n<meta charset="utf-8">\n<title>{escape(story.name)}</title>\n<style>{STYLE}</style>\n</head>\n<body>\n{body}\n</body>\n</html>\n'


def _body(story: Story, photos: Mapping[str, str]) -> Iterator[str]:
    yield f"<h1>{escape(story.name)}</h1>"
    yield f'<p class="less">what it is made of, and where that grew; made by {escape(story.shop)}</p>'
    yield f"<p>{'; '.join(_facts(story))}</p>"
    yield "<h2>Its wood</h2>"
    for board in story.boards:
        yield from _board(board, photos)
    if story.joints:
        yield "<h2>Its joints</h2>"
        yield _table((j.on, j.name, j.words) for j in story.joints)
    if shown := [one for one in story.part_photos if one.sha in photos]:
        yield "<h2>Its parts on their way</h2>"
        for one in shown:
            words = escape(f"{one.name}, {one.on}")
            yield f'<figure><img src="{PHOTOS}/{photos[one.sha]}" alt="{words}"><figcaption>{words}</figcaption></figure>'
    for title, lines in (
        ("Mended", story.mends),
        ("What went wrong, and what helped", story.mishaps),
        ("Rules that were set aside", story.set_aside),
    ):
        if lines:
            yield f"<h2>{title}</h2>"
            yield from (f"<p>{escape(line)}</p>" for line in lines)
        if lines and lines is story.mishaps:
            yield from (
                f'<img src="{PHOTOS}/{photos[sha]}" alt="what went wrong">' for sha in story.mishap_photos if sha in photos
            )
    if story.offcuts:
        yield "<h2>What was left over</h2>"
        yield _table((f"No. {o.number}", o.species, o.words) for o in story.offcuts)
    if story.events:
        yield "<h2>Its days</h2>"
        yield _table(story.events)


def _facts(story: Story) -> Iterator[str]:
    if story.weighed_kg is not None:
        yield f"{story.weighed_kg:.2f} kg"
    if story.forecast_kg is not None:
        yield f"its wood was forecast at {story.forecast_kg:.2f} ± {story.forecast_spread_kg or 0.0:.2f} kg"
    if story.hours:
        yield f"{story.hours:.1f} hours of hand work"
    if story.litres:
        yield f"of {story.litres:.1f} litres of wood " + ", ".join(
            f"{100 * share:.0f} % {SHARE_WORDS[name]}" for name, share in story.shares.items() if share >= 0.005
        )
    yield f"finished {story.finished}" if story.finished else "not finished yet"


def _board(board: StoryBoard, photos: Mapping[str, str]) -> Iterator[str]:
    yield f"<h3>No. {escape(board.number)}, {escape(board.species)}: {escape(board.made_words)}</h3>"
    figures = []
    if board.moisture_words:
        figures.append(board.moisture_words)
    if board.kg is not None:
        figures.append(f"{board.kg:.2f} kg of it")
    if board.price is not None:
        figures.append(f"cost {board.price:.0f}")
    yield f"<p>{escape('; '.join((*board.source, *figures)) or 'nothing more is known of it')}</p>"
    if board.flaws:
        yield f"<p>{escape('; '.join(board.flaws))}</p>"
    if board.papers:
        yield f"<p>Papers: {escape('; '.join(board.papers))}</p>"
    elif board.lacks_paper:
        yield '<p class="lacks">A listed species; no paper is kept with it.</p>'
    if len(board.outline) > 2:
        yield drawing(board)
    yield from (f'<img src="{PHOTOS}/{photos[sha]}" alt="No. {escape(board.number)}">' for sha in board.photos if sha in photos)


def drawing(board: StoryBoard) -> str:
    """Where its parts lay in the board, as an SVG to scale."""
    xs, ys = zip(*board.outline)
    x0, y0, x1, y1 = min(xs), min(ys), max(xs), max(ys)
    scale = WIDE / max(1.0, x1 - x0)
    high = (y1 - y0) * scale

    def points(ring: tuple[tuple[float, float], ...]) -> str:
        return " ".join(f"{(x - x0) * scale:.1f},{(y1 - y) * scale:.1f}" for x, y in ring)

    rows = [
        f'<polygon points="{points(board.outline)}" fill="{ON_PAPER["wood"]}" fill-opacity="0.35" stroke="{ON_PAPER["edge"]}"/>'
    ]
    for part in board.parts:
        px, py = zip(*part.polygon)
        x, y = (sum(px) / len(px) - x0) * scale, (y1 - sum(py) / len(py)) * scale
        rows.append(
            f'<polygon points="{points(part.polygon)}" fill="{ON_PAPER["wood"]}" stroke="{ON_PAPER["ink"]}" stroke-width="1.5"/>'
        )
        rows.append(
            f'<text x="{x:.1f}" y="{y + 5:.1f}" text-anchor="middle" font-size="14" fill="{ON_PAPER["ink"]}">{escape(part.letter)}</text>'
        )
    label = f"{format_length(x1 - x0)} × {format_length(y1 - y0)}"
    return f'<svg width="{WIDE:.0f}" height="{high + 2:.0f}" viewBox="-1 -1 {WIDE + 2:.0f} {high + 2:.0f}" role="img" aria-label="Where its parts lay in No. {escape(board.number)}, {label}">{"".join(rows)}</svg>'


def _table(rows: Iterator[tuple[str, ...]] | tuple[tuple[str, ...], ...]) -> str:
    return (
        "<table>" + "".join("<tr>" + "".join(f"<td>{escape(cell)}</td>" for cell in row) + "</tr>" for row in rows) + "</table>"
    )
