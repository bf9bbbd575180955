"""The commands for whole shops: pack one into a file, unpack one, lay two side by side, bring one into the other."""

from __future__ import annotations

import argparse
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from grainet.session.shop import Shop


def add_to(commands: Any) -> None:
    """Add them to the program's commands."""
    pack = commands.add_parser("archive", help="pack a whole shop into one file, with its photos and checksums")
    pack.add_argument("shop", type=Path)
    pack.add_argument("--out", type=Path, required=True)
    pack.set_defaults(run=_pack)
    unpack = commands.add_parser("unarchive", help="unpack an archive into a new shop folder")
    unpack.add_argument("archive", type=Path)
    unpack.add_argument("--to", type=Path, required=True)
    unpack.set_defaults(run=_unpack)
    beside = commands.add_parser("compare", help="what differs between a shop and an archive or another shop")
    beside.add_argument("shop", type=Path)
    beside.add_argument("other", type=Path)
    beside.set_defaults(run=_compare)
    merge = commands.add_parser("merge", help="bring what is only in an archive or another shop into a shop")
    merge.add_argument("shop", type=Path)
    merge.add_argument("other", type=Path)
    merge.add_argument("--replace", action="store_true", help="let what is told otherwise there take the place of what is here")
    merge.set_defaults(run=_merge)


def _pack(options: argparse.Namespace) -> int:
    from grainet.session.archives import pack
    from grainet.session.shop import Shop

    with Shop.open(options.shop, read_only=True) as shop:
        found = pack(shop, options.out)
    print(
        f"{found.name}: {found.photos} photos, {found.size / 1e6:.1f} MB unpacked, {options.out.stat().st_size / 1e6:.1f} MB packed"
    )
    return 0


def _unpack(options: argparse.Namespace) -> int:
    from grainet.store.archive import unpack

    found = unpack(options.archive, options.to)
    print(f"{found.name}, packed {found.made}: {found.photos} photos")
    return 0


@contextmanager
def opened(path: Path) -> Iterator[Shop]:
    """A shop's folder, or an archive unpacked aside, to be read only. Raises ShopUnusable."""
    from grainet.session.shop import Shop
    from grainet.store.archive import unpack

    if path.is_dir():
        with Shop.open(path, read_only=True) as shop:
            yield shop
        return
    with tempfile.TemporaryDirectory() as scratch:
        folder = Path(scratch) / "there.grainet"
        unpack(path, folder)
        with Shop.open(folder) as shop:  # an older form is brought to this one's, which a copy may be
            yield shop


def _compare(options: argparse.Namespace) -> int:
    from grainet.session.archives import compared
    from grainet.session.shop import Shop

    with Shop.open(options.shop, read_only=True) as shop, opened(options.other) as other:
        rows = compared(shop, other)
    for row in rows:
        print(f"{row.stands:8} {row.kind} {row.number}" + (f": {row.words}" if row.words else ""))
    print("nothing differs" if not rows else f"{len(rows)} things differ")
    return 0


def _merge(options: argparse.Namespace) -> int:
    from grainet.session.archives import bring, compared
    from grainet.session.shop import Shop

    with Shop.open(options.shop) as shop, opened(options.other) as other:
        rows = compared(shop, other)
        count = bring(shop, other, rows, replace=options.replace)
    left = sum(r.stands == "differs" for r in rows) if not options.replace else 0
    print(f"{count} things brought in" + (f", {left} that are told otherwise there stay as they are here" if left else ""))
    return 0
