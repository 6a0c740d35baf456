"""A store cleared from the seat's page: looked at, signed, and gone."""

import re
from pathlib import Path

from playwright.sync_api import expect

from .stage import Journey, eventually

SEAT, FOLDER = "pan-03", "home/edit/corrow/cache"


class Cleared(Journey):
    @property
    def folder(self) -> Path:
        return self.demo.run / "seats" / SEAT / "disks" / FOLDER

    def there(self) -> int:
        return sum(path.is_file() for path in self.folder.rglob("*"))

    def test_what_nobody_used_goes_but_what_is_kept(self) -> None:
        self.demo.standin("close", SEAT, "corrow")
        before = self.there()
        self.go(f"/seats/{SEAT}")
        self.page.get_by_role("button", name="Clear a store").click()
        sheet = self.page.get_by_role("dialog")
        expect(sheet.get_by_label("Store")).to_contain_text("Source cache, Corrow: 88 GB")
        sheet.get_by_role("button", name="List unused files").click()
        expect(sheet.locator("[data-listed]")).to_contain_text(f"of {before} files in /home/edit/corrow/cache")
        self.assertEqual(self.there(), before)
        first = sheet.get_by_role("checkbox").first
        name = (first.get_attribute("aria-label") or "").removeprefix("Remove ")
        first.uncheck()
        self.check_accessible()
        goes = int(re.findall(r"\d+", sheet.get_by_role("button", name=re.compile("Remove .* files")).inner_text())[0])
        sheet.get_by_role("button", name=re.compile("Remove .* files")).click()
        expect(sheet.locator("[data-cleared]")).to_contain_text(f"{goes} files")
        self.assertTrue((self.folder / name).exists())
        self.assertEqual(self.there(), before - goes)
        eventually(lambda: self.demo.answer(f"/seats/{SEAT}/stores")["items"][0]["size"] < 40 * 10**9)
        self.go("/ledger")
        expect(self.page.get_by_role("main")).to_contain_text("clear store")
