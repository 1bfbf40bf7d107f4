"""Sharing: a link that a friend opens on a phone without an account, until it is taken back; somebody who may look, then change, then no more."""

from __future__ import annotations

import re

from django.contrib.auth.models import User
from playwright.sync_api import Page, expect

from projects.models import Variant

from .base import BrowserTestCase


class Share(BrowserTestCase):
    def test_a_link_is_made_opened_on_a_phone_and_taken_back(self) -> None:
        page = self.open_gadget("Pouch cell", step="Record")
        share = page.get_by_role("region", name="Share")
        share.get_by_role("button", name="Make a link").click()
        link = share.get_by_label("Link to Pouch cell")
        expect(link).to_be_visible()
        runtime = self.figure("runtime")
        friend = self.new_page(viewport={"width": 390, "height": 844})
        friend.goto(link.input_value())
        verdict = friend.get_by_role("list", name="Verdict")
        expect(verdict).to_contain_text(runtime, timeout=20_000)
        expect(friend.get_by_role("heading", level=1, name="Dusk Ear")).to_be_visible()
        self.assertLessEqual(friend.evaluate("document.documentElement.scrollWidth"), 390)
        verdict.get_by_role("button", name=re.compile("^Runtime")).click()
        expect(friend.get_by_role("dialog")).to_contain_text("Runtime")
        friend.keyboard.press("Escape")
        self.assertFalse(friend.get_by_role("navigation", name="Steps").count())
        page.get_by_role("button", name="Take the link back").click()
        expect(link).to_have_count(0)
        friend.reload()
        expect(friend.get_by_text("was taken back")).to_be_visible()

    def test_variants_are_shown_beside_each_other(self) -> None:
        page = self.open_gadget("Two coin cells", step="Record")
        share = page.get_by_role("region", name="Share")
        share.get_by_label("with the other variants beside it").check()
        share.get_by_role("button", name="Make a link").click()
        friend = self.new_page()
        friend.goto(share.get_by_label("Link to Two coin cells beside Two AAA cells").input_value())
        expect(friend.get_by_role("heading", name="Two AAA cells against Two coin cells")).to_be_visible(timeout=20_000)

    def as_guest(self, step: str) -> Page:
        guest = self.new_page()
        self.sign_in(guest, "cy")
        row = Variant.objects.get(name="Pouch cell")
        guest.goto(f"{self.live_server_url}/gadgets/{row.pk}/{step}")
        expect(guest.get_by_test_id("figure-runtime")).to_be_visible()
        return guest

    def test_somebody_looks_then_changes_then_is_out(self) -> None:
        User.objects.create_user("cy", password="x")
        page = self.open_gadget("Pouch cell", step="Record")
        share = page.get_by_role("region", name="Share")
        name = share.get_by_label("Name of their account")
        name.fill("nobody-here")
        share.get_by_role("button", name="Invite").click()
        expect(share.get_by_role("alert")).to_have_text("there is no account of that name")
        expect(name).to_have_value("nobody-here")
        name.fill("cy")
        share.get_by_role("button", name="Invite").click()
        expect(share.get_by_label("What cy may do")).to_have_value("view")

        guest = self.as_guest("brief")
        expect(guest.get_by_test_id("save-state")).to_have_attribute("data-save", "reading")
        goal = guest.get_by_label("Runtime, by the clock")
        before = goal.input_value()
        goal.fill("3 days")
        goal.press("Tab")
        expect(guest.get_by_test_id("save-state")).to_have_text(re.compile("only looking"))
        guest.reload()
        expect(guest.get_by_label("Runtime, by the clock")).to_have_value(before)

        self.go("Bench", page=guest)
        guest.get_by_role("tab", name="Traces").click()
        expect(guest.get_by_role("heading", name="First walk")).to_be_visible(timeout=20_000)
        expect(guest.get_by_label("A recorded current")).to_have_count(0)  # nothing is offered that would be refused
        expect(guest.get_by_role("button", name="Take the recording away")).to_have_count(0)
        guest.goto(guest.url.replace("/bench", "/plan"))
        expect(guest.get_by_role("checkbox", name=re.compile("^Order"))).to_be_disabled(timeout=20_000)
        guest.goto(guest.url.replace("/plan", "/brief"))

        share.get_by_label("What cy may do").select_option("edit")
        guest.wait_for_timeout(500)
        guest.reload()
        expect(guest.get_by_test_id("save-state")).to_have_attribute("data-save", "saved")
        goal = guest.get_by_label("Runtime, by the clock")
        goal.fill("3 days")
        self.save_by(lambda: goal.press("Tab"), page=guest)
        page.reload()
        expect(page.get_by_role("region", name="Revisions")).to_contain_text("cy")

        page.get_by_role("button", name="Take cy out").click()
        expect(page.get_by_label("What cy may do")).to_have_count(0)
        goal.fill("4 days")
        goal.press("Tab")
        expect(guest.get_by_test_id("save-state")).to_have_attribute("data-save", "blocked")
        expect(goal).to_have_value(re.compile("^4"))
        guest.goto(f"{self.live_server_url}/gadgets")
        expect(guest.get_by_text("Dusk Ear")).to_have_count(0)
