"""Archives that are wrong in any way: refused whole, with why."""

import json
import stat
import struct
import tracemalloc
import zipfile
from pathlib import Path
from unittest import mock

from tests.care_case import CareCase, build_library
from wisearc.core.errors import InputError
from wisearc.formats import archive
from wisearc.services.maintenance import archive_export, archive_import


def build_with_archive(folder: Path) -> None:
    """Create a library and its archive."""
    build_library(folder)
    archive_export.export(folder, folder / "book.zip")


class Hostile(CareCase):
    """An archive that is wrong in any way is refused whole, with why, and little of it unpacked."""

    build = staticmethod(build_with_archive)

    def setUp(self) -> None:
        super().setUp()
        self.path = self.folder / "book.zip"
        with zipfile.ZipFile(self.path) as whole:
            self.good = {name: whole.read(name) for name in whole.namelist()}

    def refused(self, words: str, entries: dict[str, bytes] | None = None, **head: object) -> None:
        """Write an archive of these entries and see it refused."""
        files = dict(self.good if entries is None else entries)
        if head:
            files[archive.HEAD] = json.dumps({**json.loads(files[archive.HEAD]), **head}).encode()
        with zipfile.ZipFile(self.path, "w") as out:
            for name, data in files.items():
                out.writestr(name, data)
        self.refused_file(words)

    def refused_file(self, words: str) -> None:
        with self.subTest(words=words), self.assertRaisesRegex(InputError, words):
            archive_import.import_archive(self.at / "new", self.path)

    def test_entries(self) -> None:
        one = "procedures/P-0001-A.json"
        for words, more in (
            ("is not a part of an archive", {"../../outside.json": b"{}"}),
            ("is not a part of an archive", {"/etc/passwd": b"x"}),
            ("is not a part of an archive", {"procedures/P-0000-A.json": b"{}"}),
            ("is not a part of an archive", {"procedures/P-0001-A.json/x": b"{}"}),
            ("is not JSON", {one: b"{"}),
            ("nested too deep", {one: b"[" * 90000}),
            ("not UTF-8", {one: b"\xff\xfe"}),
            (
                "must be P-0001, the name of the entry",
                {one: self.good[one].replace(b"P-0001", b"P-0009")},
            ),
            ("must be A, the name of the entry", {one: b"[]"}),
            ("exceeds 4 MB", {one: b" " * 5_000_000}),
            ("must be one object|must be P-0001", {one: b"1"}),
        ):
            self.refused(words.replace("must be A,", "must be P-0001,"), {**self.good, **more})
        self.refused(
            "book.json.*is missing", {k: v for k, v in self.good.items() if k != archive.HEAD}
        )
        self.refused(
            "revisions “4” must be 3",
            {k: v for k, v in self.good.items() if k != "procedures/P-0002-A.json"},
        )
        self.assertFalse((self.at.parent / "outside.json").exists())

    def test_head(self) -> None:
        for words, head in (
            ("format", {"format": "wisearc/hat"}),
            ("version", {"version": 2}),
            ("made", {"made": "now"}),
            ("procedures", {"procedures": 9}),
            ("runs “9” must be 2", {"runs": 9}),
            ("is not a key", {"more": 1}),
            ("schools", {"schools": {"a": {}}}),
            ("must be one of table", {"schools": {"tip_school": "x"}}),
        ):
            self.refused(words, None, **head)

    def test_line_that_is_invalid(self) -> None:
        two = json.loads(self.good["procedures/P-0001-A.json"])
        entries = {
            **self.good,
            "procedures/P-0001-C.json": (
                json.dumps({**two, "revision": "C", "taken_as": None}).encode()
            ),
        }
        self.refused("must have at most one that is proved", entries, revisions=5, runs=3)

    def test_bombs(self) -> None:
        """The declared size is checked before unpacking, and unpacking stops at the limit."""
        size = 100_000_000
        for name in (archive.HEAD, "procedures/P-0001-A.json"):
            with zipfile.ZipFile(self.path, "w", zipfile.ZIP_DEFLATED) as out:
                out.writestr(name, b"0" * size)
                for other, data in self.good.items():
                    if other != name:
                        out.writestr(other, data)
            self.refused_file("exceeds 4 MB")
            self.path.write_bytes(
                self.path.read_bytes().replace(
                    size.to_bytes(4, "little"), (1000).to_bytes(4, "little")
                )
            )
            tracemalloc.start()
            self.refused_file("cannot be unpacked")
            _, most = tracemalloc.get_traced_memory()
            tracemalloc.stop()
            self.assertLess(most, 30_000_000)
        with mock.patch.object(archive, "MAX_UNPACKED_BYTES", 1000):
            self.refused("unpacks to more than")
        with mock.patch.object(archive, "MAX_ENTRIES", 2):
            self.refused("must contain at most 2")

    def test_a_list_of_very_many_entries(self) -> None:
        """The list of entries is loaded completely, so its size is limited first."""
        entry = struct.pack(
            "<4s6H3I5H2I", b"PK\1\2", 20, 20, 0, 0, 0, 33, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0
        )
        for count, words in (
            (archive.MAX_LIST_BYTES // 46 + 1, "a list of .* bytes.*at most 200000 entries"),
            (200_001, "200001 entries.*at most 200000"),
        ):
            end = struct.pack("<4s4H2IH", b"PK\5\6", 0, 0, 0, 0, count * len(entry), 0, 0)
            self.path.write_bytes(entry * count + end)
            self.refused_file(words)

    def test_twice_linked_or_damaged(self) -> None:
        with self.assertWarns(UserWarning), zipfile.ZipFile(self.path, "a") as out:
            out.writestr("procedures/P-0001-A.json", b"{}")
        self.refused_file("appears twice in the archive")
        link = zipfile.ZipInfo("procedures/P-0009-A.json")
        link.external_attr, link.create_system = (stat.S_IFLNK | 0o777) << 16, 3
        with zipfile.ZipFile(self.path, "w") as out:
            out.writestr(link, b"/etc/passwd")
        self.refused_file("not a normal file")
        self.refused("missing", {})
        with zipfile.ZipFile(self.path, "w") as out:
            out.writestr("procedures/P-0001-A.json", b"{}")
        locked = bytearray(self.path.read_bytes())
        locked[locked.index(b"PK\x01\x02") + 8] |= 1
        self.path.write_bytes(locked)
        self.refused_file("is encrypted")
        with zipfile.ZipFile(self.path, "w") as out:
            for name, data in self.good.items():
                out.writestr(name, data)
        raw = bytearray(self.path.read_bytes())
        raw[2000:2100] = b"\0" * 100
        self.path.write_bytes(raw)
        self.refused_file("damaged|JSON")
        for junk in (b"", b"PK", raw[:9000], b"x" * 9000):
            self.path.write_bytes(junk)
            self.refused_file("not a zip file")
