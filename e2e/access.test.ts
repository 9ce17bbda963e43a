import AxeBuilder from "@axe-core/playwright";
import { expect, test } from "./app";

for (const light of ["paper", "sun", "dusk"])
  test(`every main screen is accessible in ${light}`, async ({ page, shared }) => {
    await page.addInitScript((l) => localStorage.setItem("light", l), light);
    const list = await (await fetch(`${shared.url}/api/outings`)).json();
    const id = list.find((o: { outing: { name: string } }) => o.outing.name === "Gannet Spit").outing.id;
    const complaints: string[] = [];
    page.on("console", (m) => {
      if (m.type() === "error") complaints.push(m.text());
    });
    for (const path of [
      "/",
      "/settings",
      "/bag",
      "/record",
      "/bench",
      "/practice",
      ...["scout", "cut", "raise", "sweep", "work", "weigh"].map((s) => `/o/${id}/${s}`),
    ]) {
      await page.goto(shared.url + path);
      await expect(page.getByRole("heading", { level: 1 })).toBeVisible();
      await page.waitForTimeout(400);
      await expect(page.getByRole("progressbar")).toHaveCount(0);
      // What is not a matter of colour is the same in every light. Legacy mode needs no second page for each screen.
      const axe = new AxeBuilder({ page }).setLegacyMode();
      const found = await (light === "paper" ? axe : axe.withRules(["color-contrast"])).analyze();
      const bad = found.violations.filter((v) => v.impact === "serious" || v.impact === "critical");
      expect(bad.map((v) => `${path} ${v.id}: ${v.nodes.map((n) => n.target).join(" ; ")}`)).toEqual([]);
    }
    expect(complaints).toEqual([]);
  });
