"""The report through the API: for its people only, with what is wanted of it."""

from __future__ import annotations

from .helpers import ApiTestCase


class Reports(ApiTestCase):
    def test_as_a_page_and_as_a_file(self) -> None:
        variant = self.new_variant()["id"]
        content = self.send("GET", f"/variants/{variant}/report")
        self.assertEqual((content["title"], content["chapters"][0]["key"]), ("Bell", "verdicts"))
        answer = self.client.get(f"/api/variants/{variant}/report.pdf")
        self.assertEqual((answer.status_code, answer["Content-Type"]), (200, "application/pdf"))
        self.assertIn('filename="bell.pdf"', answer["Content-Disposition"])
        self.assertTrue(answer.content.startswith(b"%PDF-"))
        short = self.client.get(f"/api/variants/{variant}/report.pdf?without=workings&without=bill&paper=us-letter")
        self.assertLess(len(short.content), len(answer.content))
        keys = [
            c["key"] for c in self.send("GET", f"/variants/{variant}/report?without=workings&without=bill")["chapters"]
        ]
        self.assertFalse({"workings", "bill"} & set(keys))

    def test_what_cannot_be_asked(self) -> None:
        variant = self.new_variant()["id"]
        self.send("GET", f"/variants/{variant}/report.pdf?paper=a0", status=422)
        self.send("GET", f"/variants/{variant}/report?without=nonsense", status=422)
        self.client.force_login(self.bo)
        self.send("GET", f"/variants/{variant}/report", status=404)
        self.send("GET", f"/variants/{variant}/report.pdf", status=404)


class Comparing(ApiTestCase):
    def test_two_variants_beside_each_other(self) -> None:
        variant = self.new_variant()
        design = variant["design"]
        design["battery"]["cell"]["capacity_ah"] *= 2
        project = variant["project"]["id"]
        other = self.send("POST", f"/projects/{project}/variants", {"name": "Twice", "design": design})
        told = self.send("GET", f"/compare?variant={variant['id']}&variant={other['id']}")
        self.assertEqual([d["name"] for d in told["designs"]], ["First", "Twice"])
        self.assertEqual([t["area"] for t in told["designs"][1]["terms"]], ["its battery"])
        self.assertIn("Battery › cell › capacity", [r["place"] for r in told["rows"]])

    def test_what_cannot_be_compared(self) -> None:
        mine = self.new_variant()["id"]
        for asked in (
            f"variant={mine}",
            f"variant={mine}&variant={mine}",
            "variant=x&variant=y",
            "&".join(f"variant={mine + k}" for k in range(7)),
        ):
            self.send("GET", f"/compare?{asked}", status=422)
        self.client.force_login(self.bo)
        other = self.new_variant()["id"]
        self.send("GET", f"/compare?variant={other}&variant={mine}", status=404)
