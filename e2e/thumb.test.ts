import { expect, pick, test, unfold } from "./app";

test.use({ viewport: { width: 390, height: 844 }, hasTouch: true, isMobile: true });

test("an outing by thumb at phone width", async ({ page, app }) => {
  await page.goto(app.url);
  await page.getByRole("button", { name: "Set up your station" }).tap();
  await page.getByLabel("Your call").fill("Q1REED");
  await page.getByRole("button", { name: "Save settings" }).tap();
  await page.getByLabel("Name").fill("Alder Common");
  await page.getByLabel("Date, UTC").fill("2026-06-06");
  await page.getByLabel("Place").fill("IN36xl");
  await page.getByRole("button", { name: "Save and plan an antenna" }).tap();

  await expect(page.getByRole("heading", { name: /^Cut 1 radiator/ })).toBeVisible();
  await page.getByLabel("Frequencies, MHz").fill("14.1");
  await page.getByLabel("Antenna name").fill("Snipe");
  await page.getByRole("button", { name: /Save plan/ }).tap();

  await page.getByLabel("Radiator, m").fill("lots");
  await expect(page.getByText('"lots" is not a number with a unit', { exact: false }).first()).toBeVisible();
  await expect(page.getByRole("button", { name: "Save as revision 1" })).toBeDisabled();
  await page.getByLabel("Radiator, m").fill("9.95 m");
  await page.getByLabel("Choke").selectOption("feed");
  await page.getByLabel("No thunderstorm near").tap();
  await page.getByRole("button", { name: "Save as revision 1" }).tap();

  await page.getByRole("button", { name: "Type readings" }).tap();
  await page.getByLabel(/Frequency in MHz and SWR/).fill("13.9 2.4\n14.0 1.9\n14.1 1.5\n14.2 1.3\n14.3 1.4\n14.35 1.6");
  await page.getByRole("button", { name: /Save to revision 1/ }).tap();
  await expect(page.getByRole("heading", { name: /^No change needed/ })).toBeVisible();

  await page.getByRole("link", { name: /Work/ }).tap();
  await page.getByLabel(/Call, reports/).fill("Q7RUN/P 55 53 20m ssb =mi-0003");
  await page.getByRole("button", { name: "Log it" }).tap();
  await expect(page.getByRole("cell", { name: "Q7RUN/P", exact: true })).toBeVisible();
  await page.getByRole("button", { name: "Undo" }).tap();
  await expect(page.getByText("No contacts yet", { exact: false })).toBeVisible();

  // Nothing reaches beyond the edge of the screen.
  for (const stage of ["scout", "cut", "raise", "sweep", "work", "weigh"]) {
    await page.goto(page.url().replace(/[a-z]+$/, stage));
    await expect(page.getByRole("heading", { level: 1 })).toBeVisible();
    expect(await page.evaluate(() => document.documentElement.scrollWidth), stage).toBeLessThanOrEqual(390);
  }
});

test("every family, the bag and the bench fit the phone and answer to the thumb", async ({ page, shared }) => {
  const list = await (await fetch(`${shared.url}/api/outings`)).json();
  const id = list.find((o: { outing: { name: string } }) => o.outing.name === "Sedge Quay").outing.id;
  const fits = async (what: string) =>
    expect(await page.evaluate(() => document.documentElement.scrollWidth), what).toBeLessThanOrEqual(390);
  await page.goto(`${shared.url}/o/${id}/cut`);
  await page.getByRole("button", { name: "Another antenna" }).tap();
  const families = (await (await fetch(`${shared.url}/api/reference`)).json()).families as {
    id: string;
    short: string;
    name: string;
    multi: boolean;
  }[];
  for (const f of families) {
    const radio = page.getByRole("radio", { name: f.short, exact: true });
    await radio.evaluate((e) => e.scrollIntoView({ block: "center" }));
    await pick(page, f.short);
    await page.getByLabel("Frequencies, MHz").fill(f.multi ? "14.06 21.1" : "14.06");
    await expect(page.getByRole("heading", { name: f.name, exact: true })).toBeVisible();
    await expect(page.getByRole("heading", { level: 1 })).not.toHaveText(/has errors|Computing/);
    await expect(page.getByRole("img", { name: /to scale/ })).toBeVisible();
    // Lettering keeps its size: what labels the drawing is at least 12 px high on the glass.
    const least = () =>
      page
        .locator("figure.layout text")
        .evaluateAll((all) => Math.min(...all.map((e) => e.getBoundingClientRect()).map((r) => Math.min(r.width, r.height))));
    await expect.poll(least, { message: f.id }).toBeGreaterThanOrEqual(11);
    await fits(f.id);
  }
  await page.goto(`${shared.url}/o/${id}/raise`);
  await page.getByRole("button", { name: /Crake/ }).tap();
  await expect(page.getByLabel("Around the loop, m")).toHaveValue("2.80 m");
  await page.getByLabel("Conductor, mm").fill("22");
  await expect(page.getByLabel("A strong field close to the loop")).toBeVisible();
  await fits("raise");
  await page.getByRole("button", { name: "More" }).tap();
  await page.getByRole("link", { name: "Bag" }).tap();
  await unfold(page, "Coil");
  await page.getByRole("button", { name: /White coil/ }).tap();
  await expect(page.getByText("Self-resonance").first()).toBeVisible();
  await fits("bag");
  await page.getByRole("button", { name: "More" }).tap();
  await page.getByRole("link", { name: "Bench" }).tap();
  for (const tool of ["Coil", "Transformer", "Cable", "Tuner", "Loss budget", "Radial wire"]) {
    await pick(page, tool);
    await expect(page.getByRole("heading", { level: 1 })).not.toHaveText(/Computing/);
    await fits(tool);
  }
});
