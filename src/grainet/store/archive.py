"""A whole shop as one file: a zip with the shop's database, its photos, and a list of both with their checksums.

An archive may come from anywhere. Nothing of it is written under a name that it says itself: only ``shop.sqlite`` and photos named by their
SHA-256 are taken, each no larger than the list says and than a shop ever is, and all of it is put beside the target first and renamed once
every checksum has agreed.
"""

from __future__ import annotations

import hashlib
import json
import re
import shutil
import sqlite3
import tempfile
import zipfile
import zlib
from collections.abc import Iterator
from contextlib import closing
from dataclasses import dataclass
from pathlib import Path
from typing import IO, Any

from grainet.store.guard import FILE_NAME, folder_fault
from grainet.store.photos import FOLDER as PHOTOS
from grainet.store.shop_file import ShopUnusable

LIST = "archive.json"
FORMAT, VERSION = "grainet-archive", 1
MOST_BYTES = 40_000_000_000  # of a whole shop, unpacked
MOST_ONE = 4_000_000_000  # of one file in it
MOST_LIST = 50_000_000
MOST_RATIO = 400  # unpacked to packed; what is packed tighter was made to fill a disk
FREE_BYTES = 1_000_000  # below which the ratio says nothing
CHUNK = 1 << 20
# what a damaged zip can make of being read; RuntimeError where it says that it is locked
UNZIPPABLE = (zipfile.BadZipFile, zlib.error, EOFError, NotImplementedError, RuntimeError)
_PHOTO = re.compile(rf"{PHOTOS}/([0-9a-f]{{64}})")


@dataclass(frozen=True)
class Packed:
    """What an archive holds: the shop's name, when it was made (UTC), its files and how large it is unpacked."""

    name: str
    made: str
    photos: int
    size: int


def write_archive(folder: Path, target: Path, name: str, made: str) -> Packed:
    """Pack a shop's folder, as it stands, into one file; written aside and renamed. Raises ShopUnusable."""
    if (fault := folder_fault(folder)) is not None:
        raise ShopUnusable(f"{folder.name} is not packed: {fault}")
    aside = target.with_name(f".{target.name}.part")
    try:
        with tempfile.TemporaryDirectory() as scratch:
            whole = Path(scratch) / FILE_NAME
            with closing(sqlite3.connect(f"{(folder / FILE_NAME).resolve().as_uri()}?mode=ro", uri=True)) as db, closing(sqlite3.connect(whole)) as copy:  # fmt: skip
                db.backup(copy)
            files = {FILE_NAME: whole, **{f"{PHOTOS}/{p.name}": p for p in _photos(folder)}}
            listed: dict[str, dict[str, Any]] = {
                label: {"sha256": _sha(path), "bytes": path.stat().st_size} for label, path in files.items()
            }
            with zipfile.ZipFile(aside, "w", zipfile.ZIP_DEFLATED, allowZip64=True) as packed:
                told = {"format": FORMAT, "version": VERSION, "name": name, "made": made, "files": listed}
                packed.writestr(LIST, json.dumps(told, indent=1) + "\n")
                for label, path in files.items():
                    packed.write(path, label, zipfile.ZIP_DEFLATED if label == FILE_NAME else zipfile.ZIP_STORED)
        aside.replace(target)
    except (OSError, sqlite3.Error, zipfile.BadZipFile) as fault:
        raise ShopUnusable(f"The archive could not be written to {target}: {fault}.") from None
    finally:
        aside.unlink(missing_ok=True)
    return Packed(name, made, len(listed) - 1, sum(one["bytes"] for one in listed.values()))


def _photos(folder: Path) -> Iterator[Path]:
    """The originals of a shop, in the order of their names; links are passed over."""
    for path in sorted((folder / PHOTOS).glob("*")):
        if path.is_file() and not path.is_symlink() and _PHOTO.fullmatch(f"{PHOTOS}/{path.name}"):
            yield path


def _sha(path: Path) -> str:
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()


def read_list(path: Path) -> Packed:
    """What an archive holds, without unpacking it. Raises ShopUnusable."""
    with _opened(path) as packed:
        told = _listed(path, packed)
    return _packed(told)


def unpack(path: Path, folder: Path) -> Packed:
    """Unpack an archive into a new folder, which is then a shop. Raises ShopUnusable; then there is no such folder."""
    if folder.exists():
        raise ShopUnusable(f"{folder.name} is there already; needs a new folder.")
    aside = folder.with_name(f".{folder.name}.part")
    try:
        folder.parent.mkdir(parents=True, exist_ok=True)
        shutil.rmtree(aside, ignore_errors=True)
        (aside / PHOTOS).mkdir(parents=True)
        with _opened(path) as packed:
            told = _listed(path, packed)
            for label, one in told["files"].items():
                _take(path, packed, label, one, aside / label)
        aside.replace(folder)
    except (OSError, *UNZIPPABLE) as fault:
        raise ShopUnusable(f"{path.name} could not be unpacked: {str(fault)[:200]}.") from None
    finally:
        shutil.rmtree(aside, ignore_errors=True)
    return _packed(told)


def _opened(path: Path) -> zipfile.ZipFile:
    try:
        return zipfile.ZipFile(path)
    except (OSError, ValueError, *UNZIPPABLE) as fault:
        raise ShopUnusable(f"{path.name} is no archive of a shop: {str(fault)[:200]}.") from None


def _listed(path: Path, packed: zipfile.ZipFile) -> dict[str, Any]:
    """The archive's own list, once everything in it is what a shop may hold. Raises ShopUnusable."""

    def no(why: str) -> ShopUnusable:
        return ShopUnusable(f"{path.name} is no archive of a shop: {why}.")

    names = [info.filename for info in packed.infolist()]
    if LIST not in names or packed.getinfo(LIST).file_size > MOST_LIST:
        raise no(f"it has no {LIST}")
    try:
        told = json.loads(packed.read(LIST))
        files = told["files"]
        right = told["format"] == FORMAT and told["version"] == VERSION and FILE_NAME in files
        sizes = {label: (str(one["sha256"]), int(one["bytes"])) for label, one in files.items()}
    except (ValueError, KeyError, TypeError, AttributeError, RecursionError, *UNZIPPABLE):
        raise no(f"its {LIST} cannot be read") from None
    if not right:
        raise no(f"found {told.get('format')!r} version {told.get('version')!r}, needs {FORMAT!r} version {VERSION}")
    if len(set(names)) < len(names):
        raise no("a name stands in it twice")
    for label in names:
        if label not in (LIST, FILE_NAME) and not _PHOTO.fullmatch(label):
            raise no(f"it holds “{label[:60]}”, which no shop has")
    if set(names) - {LIST} != set(sizes):
        raise no("its list and what it holds differ")
    if sum(size for _, size in sizes.values()) > MOST_BYTES or any(not 0 <= size <= MOST_ONE for _, size in sizes.values()):
        raise no("it says that it is larger than a shop ever is")
    for label, (sha, size) in sizes.items():
        info = packed.getinfo(label)
        if info.file_size != size:
            raise no(f"{label[:20]} is {info.file_size} bytes, the list says {size}")
        if size > FREE_BYTES and size > MOST_RATIO * max(1, info.compress_size):
            raise no(f"{label[:20]} is packed tighter than a shop packs")
        if (named := _PHOTO.fullmatch(label)) is not None and named[1] != sha:
            raise no("a photo is not called by its checksum")
    return {**told, "files": {label: {"sha256": sha, "bytes": size} for label, (sha, size) in sizes.items()}}


def _take(path: Path, packed: zipfile.ZipFile, label: str, one: dict[str, Any], target: Path) -> None:
    """One file out of it, in pieces, no further than the list says; its checksum must agree. Raises ShopUnusable."""
    count, sha = 0, hashlib.sha256()
    with packed.open(label) as source, target.open("xb") as out:
        for chunk in _chunks(source):
            count += len(chunk)
            if count > one["bytes"]:
                break
            sha.update(chunk)
            out.write(chunk)
    if count != one["bytes"] or sha.hexdigest() != one["sha256"]:
        raise ShopUnusable(f"{path.name} is damaged: {label[:20]} is not what its checksum says. Nothing was unpacked.")


def _chunks(source: IO[bytes]) -> Iterator[bytes]:
    while chunk := source.read(CHUNK):
        yield chunk


def _packed(told: dict[str, Any]) -> Packed:
    sizes = [one["bytes"] for one in told["files"].values()]
    return Packed(str(told.get("name", ""))[:120], str(told.get("made", ""))[:40], len(sizes) - 1, sum(sizes))
