"""How the house stands: what is accepted, the grid of drift, the standard it follows. These come after the record."""

import re

from playwright.sync_api import Locator, expect
from standardwebhooks import Webhook

from normant.tests.receiver import receiver
from normant_core.tests.waiting import until

from .stage import Journey


class Waive(Journey):
    def test_a_finding_is_waived_for_a_reason_prolonged_and_ended(self) -> None:
        self.go("/seats/rake-06")
        self.page.get_by_label("Select Preview pool, Plinthe").check()
        self.page.keyboard.press("w")
        sheet = self.page.get_by_role("dialog", name="Waive")
        expect(sheet.get_by_role("status")).to_contain_text("Covers 1 finding on rake-06")
        sheet.get_by_role("combobox").first.select_option("every seat: role comp")
        expect(sheet.get_by_role("status")).to_contain_text("Covers 1 finding on rake-06")
        expect(sheet.get_by_role("button", name="Waive")).to_be_disabled()
        self.check_accessible()
        sheet.get_by_label("Reason").fill("Smaller pools are on trial in the Rake Room")
        sheet.get_by_role("button", name="Waive").click()
        row = self.row("memory.preview_pool", "plinthe")
        expect(row).to_have_attribute("data-status", "waived")
        expect(row).to_contain_text("on trial in the Rake Room, until")
        self.go("/floor")
        expect(self.level("rake-06", "Memory")).to_have_accessible_name(re.compile("waived: Smaller pools"))
        self.go("/drift/waivers")
        waiver = self.page.get_by_role("listitem").filter(has_text="role comp")
        expect(waiver).to_contain_text("covers 1 finding")
        was = waiver.get_by_text(re.compile("^ends")).inner_text()
        self.check_accessible()
        waiver.get_by_role("button", name="Extend waiver").click()
        expect(waiver.get_by_text(was)).to_have_count(0)
        waiver.get_by_role("button", name="End waiver", exact=True).click()
        expect(waiver).to_contain_text("manually")
        self.go("/seats/rake-06")
        expect(row).to_have_attribute("data-status", "off-norm")

    def test_the_round_warns_of_one_that_ends(self) -> None:
        self.go("/")
        item = self.page.locator("li[data-kind=waiver]")
        expect(item).to_contain_text("Waiver ends: Corrow memory reserve on sluice-03")
        expect(item).to_contain_text(re.compile("ends (today|tomorrow)"))  # a run may go over midnight


class Drift(Journey):
    def grid(self) -> Locator:
        return self.page.get_by_role("grid", name="Drift")

    def cell(self) -> Locator:
        """The cell with the focus, as it is spoken."""
        return self.page.locator("#drift-focus")

    def test_keys_walk_the_grid_select_by_cause_and_correct(self) -> None:
        self.go("/drift")
        expect(self.page.locator("[data-sentence]")).to_contain_text("readings off norm on")
        self.grid().focus()
        for _ in range(60):  # until the next one that is off norm has the same reading elsewhere
            self.page.keyboard.press("n")
            if "Preview pool, Corrow" in self.cell().inner_text():
                break
        expect(self.cell()).to_contain_text("Preview pool is 256 MiB, house standard")
        self.page.keyboard.press("g")
        bar = self.page.get_by_role("region", name="Selection")
        expect(bar).to_contain_text("3 settings on 3 seats")
        expect(self.cell()).to_have_attribute("aria-selected", "true")
        self.check_accessible()
        self.page.keyboard.press("c")
        expect(self.page.get_by_role("dialog", name="Plan: 3 changes on 3 seats")).to_be_visible()
        self.page.keyboard.press("Escape")
        self.page.keyboard.press("Escape")
        expect(bar).to_have_count(0)

    def test_a_row_a_column_and_a_rectangle_are_selected_and_waived(self) -> None:
        self.go("/drift?only=off")
        self.page.get_by_role("button", name="Memory reserve, Corrow").click()
        bar = self.page.get_by_role("region", name="Selection")
        expect(bar).to_contain_text(re.compile(r"[2-9] settings on"))
        self.page.keyboard.press("Escape")
        box = self.grid().bounding_box()
        assert box
        self.page.mouse.click(box["x"] + 20, box["y"] + 30)  # the head of the first seat
        expect(bar).to_contain_text("on 1 seat")
        self.page.keyboard.press("Escape")
        self.page.mouse.move(box["x"] + 5, box["y"] + 60)
        self.page.mouse.down()
        self.page.mouse.move(box["x"] + 300, box["y"] + 250)
        self.page.mouse.up()
        expect(bar).to_contain_text("settings on")
        self.page.keyboard.press("w")
        expect(self.page.get_by_role("dialog", name="Waive").get_by_role("status")).to_contain_text("Covers")

    def test_the_days_before_are_shown_by_cause_or_class_and_not_corrected(self) -> None:
        self.go("/drift?rows=causes&by=hardware_class")
        expect(self.page.get_by_role("button", name=re.compile("Corrow preview pool is"))).to_be_visible()
        now = self.page.locator("[data-sentence]").inner_text()
        self.page.get_by_role("slider").focus()
        for _ in range(20):
            self.page.keyboard.press("PageDown")
        expect(self.page.locator("[data-sentence]")).not_to_have_text(now)
        self.assertIn("at=", self.page.url)
        self.grid().focus()
        self.page.keyboard.press("n")
        self.page.keyboard.press(" ")
        bar = self.page.get_by_role("region", name="Selection")
        expect(bar.get_by_role("button", name="Correct")).to_be_disabled()
        expect(bar.get_by_role("button", name="Waive")).to_have_count(0)


class Standard(Journey):
    def rule(self, words: str) -> Locator:
        return self.page.locator("li[data-rule]").filter(has_text=words)

    def test_a_sentence_is_edited_kept_as_a_draft_opened_and_dropped(self) -> None:
        self.go("/standard?seat=pan-03")
        rule = self.rule("Autosave interval")
        expect(rule).to_contain_text("8 min, in norm")
        rule.get_by_role("button", name="Autosave interval").click()
        rule.get_by_label("Required value").fill("6 min")
        rule.get_by_label("Because").fill("Two hours were lost in May.")
        self.check_accessible()
        rule.get_by_role("button", name="Apply").click()
        expect(self.page.locator("[data-impact]")).to_contain_text("would open")
        expect(rule).to_contain_text("requires at most 6 min")
        expect(self.page.locator("[data-impact]")).to_contain_text("Pan House")
        self.page.get_by_label("Note").fill("saves more often")
        self.page.get_by_role("button", name="Save as draft").click()
        draft = self.page.locator("[data-draft]", has_text="saves more often")
        expect(draft).to_be_visible()
        self.go("/standard")
        expect(self.rule("Autosave interval is at most 10 min")).to_be_visible()
        draft.get_by_role("button", name="Open").click()
        expect(self.rule("Autosave interval is at most 6 min")).to_contain_text("Two hours were lost in May.")
        self.check_accessible()
        self.page.get_by_role("button", name="Plan the corrections").click()
        plan = self.page.get_by_role("dialog", name=re.compile("^Plan: "))
        expect(plan).to_contain_text("Save the plan, publish the draft")
        expect(plan.get_by_role("row", name=re.compile("Autosave interval, Corrow.* 6 min")).first).to_be_visible()
        plan.get_by_label("Name", exact=True).fill("Save more often")
        plan.get_by_role("button", name="Save plan").click()
        expect(plan.get_by_role("status").last).to_have_text("Saved as Save more often.")
        self.check_accessible()
        self.go("/rollouts")
        self.page.get_by_role("button", name="Delete Save more often").click()
        expect(self.page.get_by_role("button", name="Delete Save more often")).to_have_count(0)
        self.go("/standard")
        draft.get_by_role("button", name="Delete draft").click()
        expect(draft).to_have_count(0)

    def test_words_are_completed_and_an_older_edition_is_gone_back_to(self) -> None:
        self.go("/standard?as=text")
        self.page.locator(".cm-line", has_text='want = "performance"').click()
        self.page.keyboard.press("End")
        self.page.keyboard.press("Enter")
        self.page.keyboard.type('when = "memory.to')
        self.page.get_by_role("option", name="memory.total").wait_for()
        self.page.wait_for_timeout(200)  # waits: the editor takes no Enter for 75 ms after a list came up
        self.page.keyboard.press("Enter")
        self.page.keyboard.type(' > 4 GiB"')
        expect(self.page.locator("[data-impact]")).to_contain_text("would stay")
        self.page.get_by_label("Note").fill("large seats")
        publish = self.page.get_by_role("button", name=re.compile("^Publish edition"))
        number = int(publish.inner_text().split()[-1])
        publish.click()
        expect(self.page.locator("h1 + p")).to_contain_text(f"edition {number}")
        edition = self.page.locator(f"[data-edition='{number}']")
        edition.get_by_role("button", name="Changes").click()
        expect(self.page.locator("ins", has_text="when installed memory is more than 4 GiB")).to_be_visible()
        before = self.page.locator(f"[data-edition='{number - 1}']")
        before.get_by_role("button", name="Restore this edition").click()
        expect(self.page.locator("[data-impact]")).to_contain_text("would open and close nothing")
        self.faults = [fault for fault in self.faults if "422" not in fault]  # while the line was being typed


class Templates(Journey):
    def keep(self, device: str) -> None:
        """Hand in a template of that engine as `Salt`."""
        text = f'<project><render device="{device}"/><picture rate="25" space="house wide" size="1920 1080"/></project>'
        file = {"name": "salt.xml", "mimeType": "text/xml", "buffer": text.encode()}
        self.page.get_by_label("File").set_input_files(file)  # type: ignore[arg-type]
        self.page.get_by_label("Name", exact=True).fill("Salt")
        self.page.get_by_role("combobox", name="Application").select_option("corrow")
        self.page.get_by_label("The Salt Ledger").check()
        self.page.get_by_role("button", name=re.compile("^(Save|Replace) template")).click()

    def test_a_template_is_judged_where_it_is_used_replaced_and_taken_away(self) -> None:
        self.go("/standard")
        expect(self.page.locator("[data-against]").first).to_contain_text("well against it: off this norm since")
        self.page.get_by_role("link", name="Project templates").click()
        lamps = self.page.locator("[data-template='Nine Lamps'] [data-setting='project.engine']")
        expect(lamps).to_have_attribute("data-status", "off-norm")
        expect(self.page.locator("[data-template='House picture'] [data-apart]").last).to_contain_text("cpu on pan-06")
        self.keep("quick")
        expect(self.page.get_by_role("alert")).to_contain_text("'quick' is none of software, hadrel, open")
        self.keep("software")
        engine = self.page.locator("[data-template='Salt'] [data-setting='project.engine']")
        expect(engine).to_have_count(1)
        expect(engine).to_have_attribute("data-status", "off-norm")
        self.check_accessible()
        self.keep("hadrel")
        expect(engine.last).to_have_attribute("data-status", "in-norm")
        expect(engine.first).to_contain_text("hadrel")
        with self.page.expect_download() as download:
            self.page.get_by_role("link", name="salt.xml").click()
        self.assertIn(b'device="hadrel"', download.value.path().read_bytes())
        self.page.get_by_role("button", name="Delete Salt").click()
        self.page.get_by_role("button", name="Delete template").click()
        expect(self.page.locator("[data-template='Salt']")).to_have_count(0)
        self.faults = [fault for fault in self.faults if "422" not in fault]  # of the engine that does not exist


class Told(Journey):
    def code_for(self, address: str) -> str:
        """What the letter to that address says."""

        def shown() -> str:
            for letter in (self.demo.run / "mail").iterdir():
                text = letter.read_text("utf-8")
                if f"To: {address}" in text and (code := re.search(r"\b\d{8}\b", text.partition("\n\n")[2])):
                    return code[0]
            return ""

        return until(shown)

    def test_a_person_chooses_what_they_are_told_and_each_way_is_tried(self) -> None:
        self.go("/")
        self.page.get_by_role("link", name="Notifications").click()
        expect(self.page.get_by_label("Mail address")).to_have_value("supervisor@brinehouse.example")
        letters = self.demo.run / "mail"
        notice = self.page.locator("[data-notice='findings.must']").last
        notice.locator("summary").click()
        expect(notice).to_contain_text("house standard")
        expect(notice).to_contain_text("sent to supervisor@brinehouse.example")
        self.assertTrue(any("critical finding" in letter.read_text("utf-8") for letter in letters.iterdir()))
        self.page.get_by_label("Mail address").fill("sal@brinehouse.example")
        self.page.get_by_label("Rake Room").check()
        self.page.get_by_role("button", name="Save").click()
        expect(self.page.get_by_text("Saved.")).to_be_visible()
        asked = self.page.locator("[data-confirm]")
        expect(asked).to_contain_text("Confirm sal@brinehouse.example first")
        asked.get_by_label("Code").fill("000000")
        asked.get_by_role("button", name="Confirm").click()
        expect(asked.get_by_role("alert")).to_be_visible()
        self.faults.clear()  # the browser tells of a refused request itself
        asked.get_by_label("Code").fill(self.code_for("sal@brinehouse.example"))
        asked.get_by_role("button", name="Confirm").click()
        expect(asked).to_have_count(0)
        with receiver() as (address, got):
            self.page.get_by_label("Webhook address").fill(address)
            self.page.get_by_role("button", name="Add webhook").click()
            secret = self.page.get_by_text("Secret").locator(".value").inner_text()
            self.page.get_by_role("button", name="Send test").click()
            test = self.page.locator("[data-notice='notice.test']").first
            expect(test.locator("[data-state=sent]")).to_have_count(2)
        headers, body = got[0]
        self.assertEqual(Webhook(secret).verify(body, headers)["data"]["subject"], "Test notification")
        self.assertTrue(any("To: sal@brinehouse.example" in letter.read_text("utf-8") for letter in letters.iterdir()))
        self.check_accessible()
        self.page.get_by_role("button", name=f"Delete webhook {address}").click()
        expect(self.page.locator("[data-hook]")).to_have_count(0)
        self.page.get_by_label("Rake Room").uncheck()
        self.page.get_by_role("button", name="Save").click()
        expect(self.page.get_by_text("Saved.")).to_be_visible()
