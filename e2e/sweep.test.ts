import { expect, outing, put, resonator, test, uid } from "./app";

const built = (metres: string) => ({
  family: "end-fed",
  variant: "sloper",
  frequency_hz: 7.1e6,
  radiator: { typed: metres, unit: "m" },
  feed_height: { typed: "1 m", unit: "m" },
  far_height: { typed: "6 m", unit: "m" },
  coax: { type: "RG-174", length: { typed: "20 m", unit: "m" } },
});

test("a sweep through thin coax says what the cable hides", async ({ page, app }) => {
  await outing(app);
  await put(app, `/api/revisions/${uid(4)}`, { deployment_id: uid(2), reason: "with its coax", built: built("20.3 m") });
  await page.goto(`${app.url}/o/${uid(1)}/sweep`);
  await page.getByLabel("Attach a sweep").setInputFiles({
    name: "radio.csv",
    mimeType: "text/csv",
    buffer: Buffer.from("MHz;SWR\n6,9;2,6\n7,0;2,1\n7,05;1,9\n7,1;1,8\n7,15;1,9\n7,2;2,2\n"),
  });
  await expect(page.getByRole("heading", { name: "6 points from 6.900 to 7.200 MHz" })).toBeVisible();
  await page.getByText("at the radio, through 20.00 m of RG-174").click();
  await page.getByRole("button", { name: "Save to revision 2" }).click();
  await expect(page.locator("dl.facts")).toContainText("at the feed point");
  // RG-174: 10.8 dB at 10 MHz and 28 dB at 100 MHz per 100 m; 20 m at 7.1 MHz.
  const k2 = (28 - 10.8 * Math.sqrt(10)) / (100 - 10 * Math.sqrt(10));
  const k1 = (10.8 - 10 * k2) / Math.sqrt(10);
  const dB = ((k1 * Math.sqrt(7.1) + k2 * 7.1) * 20) / 100;
  const g = (0.8 / 2.8) * 10 ** (dB / 10);
  await expect(page.locator("dl.facts")).toContainText(((1 + g) / (1 - g)).toFixed(2));
});

test("a wrong guess about a file is changed in its preview", async ({ page, app }) => {
  await outing(app);
  await page.goto(`${app.url}/o/${uid(1)}/sweep`);
  const rows = Array.from({ length: 21 }, (_, i) => `${7000 + i * 10},${(14 + Math.abs(10 - i)).toFixed(1)}`).join("\n");
  await page.getByLabel("Attach a sweep").setInputFiles({ name: "odd.csv", mimeType: "text/csv", buffer: Buffer.from(rows) });
  const preview = page.getByRole("region", { name: "Sweep preview" });
  await expect(preview).toContainText("columns read by their size: f, swr");
  await preview.getByLabel("column 2").selectOption("rl");
  await expect(preview).toContainText("columns read as chosen: f, rl");
  // No other unit would lie within what antennas have: none is offered.
  await expect(preview).toContainText("from 7.000 to 7.200 MHz");
  await expect(preview.getByLabel("frequency-unit")).toHaveCount(0);
  await preview.getByLabel("column 2").selectOption("swr");
  await expect(preview).toContainText("columns read as chosen: f, swr");
  await preview.getByRole("button", { name: "Discard" }).click();
  await expect(page.getByRole("heading", { name: /No sweep of Heron/ })).toBeVisible();
});

test("revisions keep their own sweeps, and a sweep taken off comes back", async ({ page, app }) => {
  await outing(app);
  await page.goto(`${app.url}/o/${uid(1)}/sweep`);
  const attach = async (f0: number) => {
    await page
      .getByLabel("Attach a sweep")
      .setInputFiles({ name: `${f0 / 1e6}.s1p`, mimeType: "text/plain", buffer: Buffer.from(resonator(f0, 45, 12, 6.6e6, 7.6e6, 20e3)) });
    await page.getByRole("button", { name: /Save to revision/ }).click();
  };
  await attach(6.9e6);
  await expect(page.locator("dl.facts")).toContainText("6.900");
  await page.getByRole("button", { name: /Folded: save as revision 2/ }).click();
  await expect(page.getByRole("heading", { level: 1, name: /^r2 of .* waits for its sweep/ })).toBeVisible();
  await expect(page.getByRole("button", { name: /save as revision 3/ })).toHaveCount(0);
  await attach(7.05e6);
  await expect(page.locator("dl.facts")).toContainText("7.050");
  await expect(page.getByText("earlier, r1")).toBeVisible();

  await page.locator(".thread button.pick").last().click();
  await expect(page.locator("dl.facts")).toContainText("6.900");
  await page.locator(".thread button.pick").first().click();
  await expect(page.locator("dl.facts")).toContainText("7.050"); // what is shown is what is deleted
  await page.getByRole("button", { name: "delete" }).click();
  await expect(page.getByRole("heading", { level: 1, name: /waits for its sweep/ })).toBeVisible();
  await page.getByRole("button", { name: "Undo" }).click();
  await expect(page.locator("dl.facts")).toContainText("7.050");

  await page.getByRole("group", { name: "Bands" }).getByRole("button", { name: /^20 m/ }).click();
  await expect(page.getByRole("heading", { name: /No sweep of Heron in this band/ })).toBeVisible();
  await page.reload();
  await expect(page.getByRole("heading", { name: /No sweep of Heron in this band/ })).toBeVisible();
});
