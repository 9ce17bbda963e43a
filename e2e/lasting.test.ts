import { expect, outing, test, uid } from "./app";

test("a reload and a restart in the middle of each stage lose nothing", async ({ page, app }) => {
  await outing(app);
  const again = async () => {
    await app.stop();
    await app.start();
    await page.reload();
  };
  const at = (stage: string) => page.goto(`${app.url}/o/${uid(1)}/${stage}`);

  await page.goto(`${app.url}/settings`);
  await page.getByLabel("Usual power, W").fill("4");
  await again();
  await expect(page.getByLabel("Usual power, W")).toHaveValue("4");

  await at("scout");
  await page.getByLabel("Site notes").fill("a fence on the west side");
  await again();
  await expect(page.getByLabel("Site notes")).toHaveValue("a fence on the west side");

  await at("cut");
  await page.getByRole("button", { name: "Another antenna" }).click();
  await page.getByLabel("Frequencies, MHz").fill("10.12");
  await page.getByLabel("Antenna name").fill("Rail");
  await again();
  await page.getByRole("button", { name: "Another antenna" }).click();
  await expect(page.getByLabel("Antenna name")).toHaveValue("Rail");
  await expect(page.getByLabel("Frequencies, MHz")).toHaveValue("10.12");

  await at("raise");
  await expect(page.getByLabel("Radiator, m")).toHaveValue("20.5 m");
  await page.getByLabel("Radiator, m").fill("20.38 m");
  await page.getByLabel("What changed, and why").fill("shortened by 12 cm");
  await again();
  await expect(page.getByLabel("Radiator, m")).toHaveValue("20.38 m");
  await expect(page.getByLabel("What changed, and why")).toHaveValue("shortened by 12 cm");

  await at("sweep");
  await page.getByRole("button", { name: "Type readings" }).click();
  await page.getByLabel(/Frequency in MHz and SWR/).fill("7.0 1.9\n7.1 1.4");
  await again();
  await expect(page.getByLabel(/Frequency in MHz and SWR/)).toHaveValue("7.0 1.9\n7.1 1.4");

  await at("work");
  await page.getByLabel(/Call, reports/).fill("Q2TAV 59");
  await again();
  await expect(page.getByLabel(/Call, reports/)).toHaveValue("Q2TAV 59");

  await at("weigh");
  await expect(page.getByRole("heading", { level: 1 })).toHaveText(/Weigh needs two|Choose two/);
});

test("a lost link keeps what is logged, says so, and sends it once", async ({ page, app }) => {
  await outing(app);
  await page.goto(`${app.url}/o/${uid(1)}/work`);
  await expect(page.getByText("No contacts yet", { exact: false })).toBeVisible();
  await app.stop();
  for (const line of ["Q2TAV 59 57 40m SSB", "Q3TAV 59 55", "Q2TAV 57 55 20m", "Q3TAV 57 59 40m"]) {
    await page.getByLabel(/Call, reports/).fill(line);
    await page.getByLabel(/Call, reports/).press("Enter");
    await expect(page.getByText(line)).toBeVisible();
    await expect(page.getByLabel(/Call, reports/)).toHaveValue("");
  }
  await expect(page.getByText("4 not synced yet")).toBeVisible();
  // The browser reads the lines as far as it can: band and mode stay, and who was worked before is said.
  await expect(page.getByText("4 contacts not synced and not counted yet; 2 worked before.")).toBeVisible();
  await expect(page.getByRole("row", { name: /Q3TAV not synced 40 m SSB 59 55/ })).toBeVisible();
  await expect(page.getByRole("row", { name: /Q2TAV not synced worked before, 40 m SSB 20 m SSB 57 55/ })).toBeVisible();
  await app.start();
  await expect(page.getByText("saved", { exact: true })).toBeVisible();
  await expect(page.getByRole("row", { name: /Q2TAV.*edit/i })).toHaveCount(2);
  await expect(page.getByRole("row", { name: /Q3TAV.*edit/i })).toHaveCount(2);
  const log = await (await fetch(`${app.url}/api/outings/${uid(1)}/log`)).json();
  expect(log.total).toBe(4);
});

test("what waits for the link outlives the page, and a refusal is shown until it is dealt with", async ({ page, app }) => {
  await outing(app);
  await page.goto(`${app.url}/o/${uid(1)}/work`);
  await expect(page.getByText("No contacts yet", { exact: false })).toBeVisible();
  await app.stop();
  const line = page.getByLabel(/Call, reports/);
  for (const text of ["Q2TAV 59 57 40m SSB", "Q3TAV 59 55 41m SSB"]) {
    await line.fill(text);
    await line.press("Enter");
    await expect(page.getByText(text)).toBeVisible();
    await expect(line).toHaveValue("");
  }
  await page.close({ runBeforeUnload: false });
  await app.start();
  const again = await page.context().newPage();
  await again.goto(`${app.url}/o/${uid(1)}/work`);
  await expect(again.getByRole("row", { name: /Q2TAV/ })).toHaveCount(1);
  // The second line names no band that there is: it is not lost, and not sent again and again.
  const refused = again.getByRole("alert").filter({ hasText: /Q3TAV 59 55 41m SSB.*could not be stored/s });
  await expect(refused).toContainText("41m");
  await again.reload();
  await expect(refused).toBeVisible();
  // Taken out it can be put back, and corrected it is logged.
  await refused.getByRole("button", { name: "Delete" }).click();
  await expect(refused).toBeHidden();
  await again.getByRole("button", { name: "Undo" }).click();
  await expect(refused).toBeVisible();
  await refused.getByRole("textbox").fill("Q3TAV 59 55 40m SSB");
  await refused.getByRole("button", { name: "Log it now" }).click();
  await expect(refused).toBeHidden();
  await expect(again.getByRole("row", { name: /Q3TAV/ })).toHaveCount(1);
  await expect(again.getByText("saved", { exact: true })).toBeVisible();
});

test("an import shows what it would do, adds it, and is undone", async ({ page, app }) => {
  await outing(app);
  await page.goto(`${app.url}/o/${uid(1)}/work`);
  const good = "<CALL:5>Q2TAV<QSO_DATE:8>20260516<TIME_ON:4>1432<BAND:3>40m<MODE:2>CW<APP_X_Y:2>zz<EOR>\n";
  await page
    .getByLabel("Import a log")
    .setInputFiles({ name: "log.adi", mimeType: "text/plain", buffer: Buffer.from(`<EOH>${good}<CALL:5>Q3TAV<BAND:3>40m<EOR>\n`) });
  await expect(page.getByRole("heading", { name: "1 of 2 contacts would be added" })).toBeVisible();
  await expect(page.getByText("line 2, record 2, QSO_DATE")).toBeVisible();
  await expect(page.getByText("No contacts yet", { exact: false })).toBeVisible();
  await page.getByRole("button", { name: "Add 1 contact" }).click();
  await expect(page.getByText("1 contact added.")).toBeVisible();
  await expect(page.getByRole("cell", { name: "Q2TAV", exact: true })).toBeVisible();
  const adi = await (await fetch(`${app.url}/api/outings/${uid(1)}/log.adi`)).text();
  expect(adi).toContain("<APP_X_Y:2>zz");
  await page.getByRole("button", { name: "Undo" }).click();
  await expect(page.getByText("No contacts yet", { exact: false })).toBeVisible();
  await page
    .getByLabel("Import a log")
    .setInputFiles({ name: "noise.adi", mimeType: "text/plain", buffer: Buffer.from([0, 1, 2, 255, 0, 7]) });
  await expect(page.getByRole("alert").first()).toContainText("binary");
});
