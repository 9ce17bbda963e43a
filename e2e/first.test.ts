import { expect, outing, put, test, uid } from "./app";

test("bands are pressed, and bare numbers of metres are asked about", async ({ page, app }) => {
  await outing(app);
  await page.goto(`${app.url}/o/${uid(1)}/cut`);
  const field = page.getByLabel("Frequencies, MHz");
  await field.fill("40/20");
  await expect(page.getByText(/40 and 20 MHz are in no amateur band. Is it 40m 20m\?/)).toBeVisible();
  await expect(page.getByRole("heading", { level: 1 })).toHaveText(/The plan has errors/);
  await page.getByRole("button", { name: "Take 40 m and 20 m" }).click();
  await expect(field).toHaveValue("40m 20m");
  await expect(page.getByRole("heading", { level: 1 })).toHaveText(/^Cut 1 radiator of (19|20)\.\d+ m/);
  const chips = page.getByRole("group", { name: "Bands" });
  const chip = (name: string) => chips.getByRole("button", { name, exact: true });
  await expect(chip("40 m")).toHaveAttribute("aria-pressed", "true");
  await expect(chip("15 m")).toHaveAttribute("aria-pressed", "false");
  await chip("15 m").click();
  await expect(field).toHaveValue("40m 20m 15m");
  await chip("20 m").click();
  await expect(field).toHaveValue("40m 15m");
  await chip("40 m").click();
  await chip("15 m").click();
  await expect(field).toHaveValue("15m");
  // What was typed in megahertz is the same band.
  await field.fill("7.05");
  await expect(chip("40 m")).toHaveAttribute("aria-pressed", "true");
  await field.fill("27.2");
  await expect(page.getByText("27.200 MHz is in no amateur band: is it meant?")).toBeVisible();
  await expect(page.getByRole("heading", { level: 1 })).toHaveText(/^Cut 1 radiator/);
});

test("readings off the radio's meter: opened in place, taken as at the radio, and on to the next band", async ({ page, app }) => {
  await outing(app);
  const plan = { family: "end-fed", variant: "sloper", frequency_hz: 0, wire: "pvc", texts: { for: "40m 20m" }, unit: "m" };
  const d = await put(app, `/api/deployments/${uid(4)}`, { outing_id: uid(1), name: "Stilt", plan });
  await put(app, `/api/revisions/${uid(5)}`, { deployment_id: uid(4), reason: "as put up", built: d.planned.shape });
  await page.goto(`${app.url}/o/${uid(1)}/sweep`);
  await page.getByRole("button", { name: /Stilt/ }).click();
  const bands = page.getByRole("group", { name: "Bands" }).getByRole("button");
  await expect(bands.nth(0)).toHaveText(/40 m.*wanted/s);
  await expect(bands.nth(1)).toHaveText(/20 m.*wanted/s);
  await page.getByRole("button", { name: "Type readings" }).click();
  const field = page.getByLabel(/Frequency in MHz and SWR/);
  await expect(field).toBeFocused();
  await expect(field).toBeInViewport();
  await field.fill("7.0 1.3\n7.1 1.1\n7.2 1.3");
  await expect(page.getByRole("radio", { name: /^at the radio/ })).toBeChecked();
  await page.getByRole("button", { name: "Save to revision 1" }).click();
  await expect(page.getByRole("heading", { level: 1 })).toHaveText(/^No change needed/);
  await expect(page.getByRole("heading", { level: 1 })).toBeInViewport();
  await page.getByRole("button", { name: "On to 20 m" }).click();
  await expect(page.getByRole("button", { pressed: true, name: /^20 m/ })).toBeVisible();
  await expect(page.getByRole("button", { name: /^On to/ })).toHaveCount(0);
});

test("on the phone one chooses first, and the lengths stay in sight", async ({ page, app }) => {
  await page.setViewportSize({ width: 390, height: 844 });
  await outing(app);
  await page.goto(`${app.url}/o/${uid(1)}/cut`);
  const headline = page.getByRole("heading", { level: 1 });
  await expect(headline).toHaveText(/^Cut 1 radiator/);
  const field = page.getByLabel("Frequencies, MHz");
  expect((await field.boundingBox())?.y ?? 9999).toBeLessThan((await page.getByRole("table").first().boundingBox())?.y ?? 0);
  await page.getByRole("button", { name: "Save plan and continue to Raise" }).scrollIntoViewIfNeeded();
  await expect(headline).toBeInViewport();
  // Nothing reaches beyond the screen.
  expect(await page.evaluate(() => document.documentElement.scrollWidth)).toBe(390);
});

test("whoever goes by digits keeps going, until something is written", async ({ page, app }) => {
  await outing(app);
  await page.goto(`${app.url}/o/${uid(1)}/scout`);
  await expect(page.getByLabel("Name")).toHaveValue("Gannet Spit");
  const line = page.getByLabel(/Call, reports/);
  await page.keyboard.press("5");
  await expect(line).toBeFocused();
  await page.keyboard.press("6");
  await expect(page).toHaveURL(/\/weigh$/);
  await page.keyboard.press("5");
  await expect(line).toBeFocused();
  await page.keyboard.type("Q26TAV");
  await expect(line).toHaveValue("Q26TAV");
  // A line that is touched is written into, whatever comes first.
  await line.fill("");
  await line.click();
  await page.keyboard.type("7.032 Q2TAV");
  await expect(line).toHaveValue("7.032 Q2TAV");
});
