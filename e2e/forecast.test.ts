import { writeFileSync } from "node:fs";
import { join } from "node:path";
import type { Page } from "@playwright/test";
import { expect, outing, pick, resonator, test, uid, unfold } from "./app";

const computed = (page: Page) => page.getByRole("region", { name: "Computed" });
const settled = async (page: Page) => {
  await expect(computed(page).getByText("vs. a dipole at the same height").first()).toBeVisible();
  await expect(page.getByRole("progressbar")).toHaveCount(0);
};
const plot = (page: Page) => computed(page).getByRole("img", { name: /^Computed SWR on/ });

test("an end-fed and a vertical for one beach: dragged, compared, recorded, swept, both curves seen", async ({ page, app }) => {
  await outing(app);
  await page.goto(`${app.url}/o/${uid(1)}/cut`);

  // The end-fed wire: curve, pattern and budget are there, and answer a drag.
  await page.getByRole("button", { name: "Another antenna" }).click();
  await page.getByLabel("Frequencies, MHz").fill("7.1");
  await page.getByLabel("Antenna name").fill("Avocet");
  await settled(page);
  await expect(computed(page).getByRole("img", { name: /degrees above the horizon/ })).toBeVisible();
  await expect(computed(page).getByText(/are radiated$/)).toBeVisible();
  await computed(page)
    .getByText(/are radiated$/)
    .click();
  await expect(computed(page).getByText("transformer", { exact: true })).toBeVisible();
  await computed(page).getByText("Assumptions").click();
  await expect(computed(page).getByText(/^ground: salt water/)).toBeVisible();
  const high = await plot(page).getAttribute("aria-label");
  const dome = await computed(page)
    .getByRole("img", { name: /degrees above the horizon/ })
    .getAttribute("aria-label");
  const budget = await computed(page).locator(".budget").textContent();
  const handle = page.locator("svg g", { has: page.locator("title", { hasText: "Drag the far end" }) }).locator("circle");
  await handle.scrollIntoViewIfNeeded();
  const box = await handle.boundingBox();
  if (!box) throw new Error("no handle");
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2 + 75, { steps: 6 });
  await page.mouse.up();
  await expect(plot(page)).not.toHaveAttribute("aria-label", high ?? "");
  await settled(page);
  expect(
    await computed(page)
      .getByRole("img", { name: /degrees above the horizon/ })
      .getAttribute("aria-label"),
  ).not.toBe(dome);
  expect(await computed(page).locator(".budget").textContent()).not.toBe(budget);
  // The counterpoise too.
  const low = await plot(page).getAttribute("aria-label");
  await unfold(page);
  await page.getByLabel("Counterpoise, m", { exact: true }).fill("6 m");
  await expect(plot(page)).not.toHaveAttribute("aria-label", low ?? "");
  // The solver's length is chosen, and stands in the cut list.
  await unfold(page, "Why these lengths");
  const solver = page.getByRole("region", { name: "Lengths by the solver" });
  const lengths = solver.getByRole("row").nth(1).getByRole("cell");
  await expect(solver.getByText("The cut list uses the solved lengths.")).toBeVisible();
  const [closed, solved] = [(await lengths.nth(1).innerText()).trim(), (await lengths.nth(2).innerText()).trim()];
  await expect(page.getByRole("row", { name: /^1 radiator/ })).toContainText(solved);
  await solver.getByRole("button", { name: "Use the closed-form lengths" }).click();
  await expect(page.getByRole("row", { name: /^1 radiator/ })).toContainText(closed);
  await solver.getByRole("button", { name: "Use the solved lengths" }).click();
  await expect(page.getByRole("row", { name: /^1 radiator/ })).toContainText(solved);
  await settled(page); // what stands above it is computed anew, and moves it
  await page.getByText("Counterpoise, coax, choke: how?").click();
  await page.getByRole("button", { name: "Compare by the model" }).click();
  await expect(page.getByText("Quietest and best matched here is", { exact: false })).toBeVisible();
  await page.getByRole("button", { name: /Save plan/ }).click();
  await expect(page).toHaveURL(/\/raise$/);
  // Kept: the solved length comes back with the plan.
  await page.goto(`${app.url}/o/${uid(1)}/cut`);
  await page.getByRole("button", { name: /^Avocet/ }).click();
  await expect(page.getByRole("row", { name: /^1 radiator/ })).toContainText(solved);

  // The vertical, and how its radial wire is cut.
  await page.getByRole("button", { name: "Another antenna" }).click();
  await pick(page, "vertical");
  await page.getByLabel("Frequencies, MHz").fill("14.06");
  await page.getByLabel("Antenna name").fill("Stilt");
  await settled(page);
  await expect(
    computed(page)
      .getByText(/^salt water|vs\. a full quarter-wave/)
      .first(),
  ).toBeVisible();
  await page.getByText("How do I cut my radial wire?").click();
  await page.getByLabel("Radial wire available").fill("30 m");
  await page.getByRole("button", { name: "Compare by the model" }).click();
  await expect(page.getByText(/^Of 30.00 m of radial wire,/)).toBeVisible();
  await page.getByRole("button", { name: /Save plan/ }).click();
  await expect(page).toHaveURL(/\/raise$/);

  // As built: the forecast stands over the drawing, then a sweep from a file beside the computed curve.
  await expect(page.getByText(/^Computed: SWR/)).toBeVisible();
  await page.getByRole("button", { name: "Save as revision 1" }).click();
  await expect(page).toHaveURL(/\/sweep$/);
  await page.getByRole("group", { name: "Bands" }).getByRole("button", { name: /^20 m/ }).click();
  await expect(page.getByRole("img", { name: /^Computed SWR of Stilt on 20m/ })).toBeVisible();
  const file = join(app.data, "stilt.s1p");
  writeFileSync(file, resonator(14.02e6, 42, 9, 13.6e6, 14.6e6, 1e4));
  await page.getByLabel("Attach a sweep").setInputFiles(file);
  await page.getByRole("button", { name: "Save to revision 1" }).click();
  await expect(page.getByRole("img", { name: /^SWR of Stilt on 20m: lowest/ })).toBeVisible();
  await expect(page.getByText("computed as recorded")).toBeVisible();
  await expect(page.getByText("measured, r1")).toBeVisible();
});

test("a long computation is stopped and begun again", async ({ page, app }) => {
  await outing(app);
  await page.goto(`${app.url}/o/${uid(1)}/cut`);
  await page.getByRole("button", { name: "Another antenna" }).click();
  await pick(page, "rectangle");
  await page.getByLabel("Frequencies, MHz").fill("14.06");
  await expect(page.getByRole("heading", { name: /^Cut 2 driven halfs|^Cut 2 × driven half/ })).toBeVisible();
  await expect(plot(page)).toHaveAttribute("aria-label", /on 20m/);
  const solver = page.getByRole("region", { name: "Lengths by the solver" });
  const solving = page.locator(".solving");
  await solving.getByRole("button", { name: "stop" }).click();
  await expect(solving.getByText("Stopped.")).toBeVisible();
  await solving.getByRole("button", { name: "Compute now" }).click();
  await unfold(page, "Why these lengths");
  await expect(solver.getByText("Front to back")).toBeVisible();
  await expect(solver.getByRole("row", { name: /^width/ })).toBeVisible();
});
