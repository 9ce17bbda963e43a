import { expect, outing, put, test, uid } from "./app";

test("built too long: the advice is followed to success, and a cause is named", async ({ page, app }) => {
  await outing(app);
  await put(app, `/api/deployments/${uid(40)}`, {
    outing_id: uid(1),
    name: "Dunlin",
    plan: { family: "dipole", variant: "flat", frequency_hz: 14.06e6 },
  });
  const leg = { typed: "5.25 m", unit: "m" };
  const up = { typed: "6 m", unit: "m" };
  await put(app, `/api/revisions/${uid(41)}`, {
    deployment_id: uid(40),
    reason: "cut in a hurry",
    built: { family: "dipole", variant: "flat", frequency_hz: 14.06e6, radiator: leg, leg_b: leg, feed_height: up, far_height: up },
  });
  await page.goto(`${app.url}/o/${uid(1)}/sweep`);
  await page.getByRole("button", { name: /^Dunlin/ }).click();
  await page.getByRole("group", { name: "Bands" }).getByRole("button", { name: /^20 m/ }).click();
  const measure = async (revision: number) => {
    await page.getByRole("button", { name: "Sweep 20 m" }).click();
    await page.getByRole("button", { name: `Save to revision ${revision}` }).click();
    await expect(page.getByText("(simulated)").first()).toBeVisible();
  };
  await measure(1);
  // Why: every wire is longer than the solver would have it, and the analyser's truth adds its own.
  await page.getByRole("button", { name: "Why does it differ from the model?" }).click();
  await expect(
    page.getByRole("heading", { name: /^Most likely: all lengths are off, every wire [\d.]+ % longer|^The sweep is what/ }),
  ).toBeVisible();
  await page
    .getByRole("region", { name: "Causes" })
    .getByRole("button", { name: /^All lengths are off/ })
    .click();
  await expect(page.getByText("predicted if: all lengths are off")).toBeVisible();
  // The advice, at most four times.
  let revision = 1;
  for (; revision <= 4; revision++) {
    const folded = page.getByRole("button", { name: `Folded: save as revision ${revision + 1}` });
    const good = page.getByRole("heading", { level: 1, name: /^No change needed/ });
    await expect(page.getByText("next sweep", { exact: true }).or(good).first()).toBeVisible();
    if (await good.isVisible()) break;
    await expect(page.getByRole("heading", { level: 1 })).toContainText(/^Fold back .* on each leg, then sweep again/);
    await expect(page.getByText("The chance of cutting too short: under 1 in 100", { exact: false })).toBeVisible();
    await folded.click();
    await expect(page.getByText(`Saved as revision ${revision + 1}`)).toBeVisible();
    await measure(revision + 1);
    await expect(page.getByText(`measured, r${revision + 1}`)).toBeVisible();
  }
  expect(revision).toBeLessThanOrEqual(3);
  await expect(page.getByText(/Lowest SWR 1\.[0-9]/)).toBeVisible();
});

test("raised radials are folded with the pole up, or the radiator instead", async ({ page, app }) => {
  await outing(app);
  await put(app, `/api/deployments/${uid(42)}`, {
    outing_id: uid(1),
    name: "Avocet",
    plan: { family: "vertical", variant: "raised-radials", frequency_hz: 14.06e6 },
  });
  const built = {
    family: "vertical",
    variant: "raised-radials",
    frequency_hz: 14.06e6,
    unit: "m",
    choke: { place: "feed" },
    texts: { radiator: "5.17", feed_height: "1.5", radials_count: "3", radials_length: "5.03", radials_height: "1" },
  };
  await put(app, `/api/revisions/${uid(43)}`, { deployment_id: uid(42), reason: "as cut", built });
  await page.goto(`${app.url}/o/${uid(1)}/sweep`);
  await page.getByRole("button", { name: /^Avocet/ }).click();
  await page.getByRole("group", { name: "Bands" }).getByRole("button", { name: /^20 m/ }).click();
  await page.getByRole("button", { name: "Sweep 20 m" }).click();
  // The page moves while it computes: nothing is pressed before it stands still.
  await expect(page.getByRole("button", { name: "Save to revision 1" })).toBeVisible();
  await expect(page.getByRole("progressbar")).toHaveCount(0);
  await page.getByRole("button", { name: "Save to revision 1" }).click();
  const heading = page.getByRole("heading", { level: 1 });
  await expect(page.getByText("next sweep", { exact: true })).toBeVisible();
  // Both ways are there; each has its own lengths and its own dip to expect.
  const ways = page.getByRole("group", { name: "Change" });
  await ways.getByText("the radiator").click();
  await expect(heading).toHaveText(/^Fold back [\d.]+ (mm|cm|m), then sweep again\.$/);
  await ways.getByText("the radials").click();
  await expect(heading).toContainText("on each of the 3 radials, then sweep again.");
  await expect(page.getByText("The pole stays up.", { exact: false })).toBeVisible();
  // On a phone nothing of it runs out of the page.
  await page.setViewportSize({ width: 390, height: 844 });
  expect(await page.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(390);
  await page.getByRole("button", { name: "Folded: save as revision 2" }).click();
  await expect(page.getByText("Saved as revision 2")).toBeVisible();
  const kept = await page.evaluate(async (id) => (await fetch(`/api/deployments/${id}`)).json(), uid(42));
  const [first, second] = kept.revisions.map((r: { built: { radiator: { m: number }; radials: { length: { m: number } } } }) => r.built);
  expect(second.radiator.m).toBe(first.radiator.m);
  expect(second.radials.length.m).toBeLessThan(first.radials.length.m);
});
