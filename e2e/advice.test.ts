import { expect, outing, put, test, uid } from "./app";

test("built too long: the advice is followed to success, and a cause is named", async ({ page, app }) => {
  test.setTimeout(240_000);
  await outing(app);
  await put(app, `/api/deployments/${uid(40)}`, { outing_id: uid(1), name: "Dunlin", plan: { family: "dipole", variant: "flat", frequency_hz: 14.06e6 } });
  const leg = { typed: "5.25 m", unit: "m" };
  const up = { typed: "6 m", unit: "m" };
  await put(app, `/api/revisions/${uid(41)}`, { deployment_id: uid(40), reason: "cut in a hurry", built: { family: "dipole", variant: "flat", frequency_hz: 14.06e6, radiator: leg, leg_b: leg, feed_height: up, far_height: up } });
  await page.goto(`${app.url}/o/${uid(1)}/sweep`);
  await page.getByRole("button", { name: /^Dunlin/ }).click();
  await page.getByRole("group", { name: "Bands" }).getByRole("button", { name: /^20 m/ }).click();
  const measure = async (revision: number) => {
    await page.getByRole("button", { name: "Sweep 20 m" }).click();
    await page.getByRole("button", { name: `Keep it with r${revision}` }).click({ timeout: 60_000 });
    await expect(page.getByText("(simulated)").first()).toBeVisible();
  };
  await measure(1);
  // Why: every wire is longer than the solver would have it, and the analyser's truth adds its own.
  await page.getByRole("button", { name: "Why is it not as computed?" }).click();
  await expect(page.getByRole("heading", { name: /^Most likely: all lengths are off, every wire [\d.]+ % longer|^The sweep is what/ })).toBeVisible({ timeout: 90_000 });
  await page.getByRole("region", { name: "Why it is so" }).getByRole("button", { name: /^All lengths are off/ }).click();
  await expect(page.getByText("foretold if: all lengths are off")).toBeVisible();
  // The advice, at most four times.
  let revision = 1;
  for (; revision <= 4; revision++) {
    const folded = page.getByRole("button", { name: `Folded, make it r${revision + 1}` });
    const good = page.getByRole("heading", { level: 1, name: /^Leave it|^Centred|^The length is right/ });
    await expect(page.getByText("next sweep", { exact: true }).or(good).first()).toBeVisible({ timeout: 60_000 });
    if (await good.isVisible()) break;
    await expect(page.getByRole("heading", { level: 1 })).toContainText(/^Fold back .* on each leg, then sweep again/);
    await expect(page.getByText("That it ends too short: under 1 in 100", { exact: false })).toBeVisible();
    await folded.click();
    await expect(page.getByText(`Kept as r${revision + 1}`)).toBeVisible();
    await measure(revision + 1);
    await expect(page.getByText(`measured, r${revision + 1}`)).toBeVisible();
  }
  expect(revision).toBeLessThanOrEqual(3);
  await expect(page.getByText(/Lowest SWR 1\.[0-9]/)).toBeVisible();
});
