"""Every text of every chart lies inside its picture and on no other text: at all widths, units and text sizes."""

from __future__ import annotations

from playwright.sync_api import Page, expect

from .base import BrowserTestCase

# variants whose runtimes are in days, years, months and hours
VARIANTS = ("Pouch cell", "Two AAA cells", "Tiny rechargeable", "One cylinder a season")

MEASURE = """() => {
  const found = [];
  for (const svg of document.querySelectorAll('svg[data-chart]')) {
    const frame = svg.getBoundingClientRect();
    if (!frame.width) continue;
    const texts = [...svg.querySelectorAll('text')].filter((t) => t.textContent.trim());
    const boxes = texts.map((t) => t.getBoundingClientRect());
    texts.forEach((t, i) => {
      const b = boxes[i];
      if (b.left < frame.left - 1 || b.right > frame.right + 1 || b.top < frame.top - 1 || b.bottom > frame.bottom + 1)
        found.push(`cut: ${t.textContent} (${Math.round(b.left - frame.left)}, ${Math.round(frame.right - b.right)})`);
      for (let j = 0; j < i; j += 1) {
        const a = boxes[j];
        const wide = Math.min(a.right, b.right) - Math.max(a.left, b.left);
        const tall = Math.min(a.bottom, b.bottom) - Math.max(a.top, b.top);
        if (wide > 1 && tall > 3) found.push(`overlap: ${texts[j].textContent} | ${t.textContent}`);
      }
    });
  }
  return found;
}"""


class ChartTexts(BrowserTestCase):
    def charts(self, page: Page, what: str, at_least: int = 1) -> None:
        expect(page.locator("svg[data-chart]").nth(at_least - 1)).to_be_visible()
        page.evaluate("document.fonts.ready")
        page.evaluate("() => new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done)))")
        self.assertEqual(page.evaluate(MEASURE), [], what)

    def walk(self, page: Page, variant: str, how: str) -> None:
        self.open_gadget(variant, "Runtime", page)
        for tab, charts in (("The day", 2), ("How sure it is", 2), ("Cold, heat and years", 3)):
            page.get_by_role("tab", name=tab).click()
            expect(page.locator("[aria-busy]")).to_have_count(0)
            self.charts(page, f"{variant}, {tab}, {how}", charts)
        if variant in ("Pouch cell", "Tiny rechargeable"):
            self.go("Charge", page)
            for tab in ("Heat", "Charging"):
                page.get_by_role("tab", name=tab).click()
                self.charts(page, f"{variant}, {tab}, {how}")
        self.go("Supply", page)
        self.charts(page, f"{variant}, Supply, {how}")
        self.go("Fit", page)
        page.get_by_role("tab", name="Cut and measured").click()
        for axis in ("z", "x", "y"):
            page.get_by_label("Cut", exact=True).select_option(axis)
            expect(page.get_by_role("img", name=f"The case cut across {axis}")).to_be_visible()
            self.charts(page, f"{variant}, cut across {axis}, {how}")

    def test_the_runtime_against_the_interval(self) -> None:
        self.open_gadget(step="Runtime")
        self.page.get_by_role("tab", name="What would help").click()
        expect(self.page.get_by_role("region", name="Battery check: how often")).to_be_visible()
        expect(self.page.locator("[aria-busy]")).to_have_count(0)
        self.charts(self.page, "what would help", 2)

    def test_days_years_months(self) -> None:
        for variant in VARIANTS:
            self.walk(self.page, variant, "1280 px")

    def test_narrow_and_wide(self) -> None:
        for width in (390, 760, 1900):
            page = self.new_page(viewport={"width": width, "height": 800})
            for variant in VARIANTS[:2]:
                self.walk(page, variant, f"{width} px")

    def test_text_at_200_percent(self) -> None:
        page = self.new_page()
        page.add_init_script(
            "document.addEventListener('DOMContentLoaded', () => { document.documentElement.style.fontSize = '200%'; })"
        )
        for variant in VARIANTS[:3]:
            self.walk(page, variant, "200 %")

    def test_a_converters_curve(self) -> None:
        for width in (1280, 390):
            page = self.open_gadget(
                "One cylinder a season", "Supply", self.new_page(viewport={"width": width, "height": 800})
            )
            page.get_by_role("group", name="The supply tree").get_by_role("button", name="Boost 5 V").click()
            self.charts(page, f"curve, {width} px", 2)
