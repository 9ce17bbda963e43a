import type { Locator } from "@playwright/test";
import { expect, outing, pick, printed, put, test, uid } from "./app";

test("marks for seven bands are made, printed and used, and say when they do not hold", async ({ page, app }) => {
  await outing(app);
  const hz = [7.03e6, 10.12e6, 14.06e6, 18.08e6, 21.06e6, 24.9e6, 28.06e6];
  const plan = {
    family: "whip",
    variant: "ground-radials",
    frequency_hz: hz[0],
    more_hz: hz.slice(1),
    texts: { for: hz.map((f) => f / 1e6).join(" "), whip_full: "11 m", whip_sections: "11" },
    unit: "m",
  };
  await put(app, `/api/deployments/${uid(60)}`, { outing_id: uid(1), name: "Avocet", plan });
  const raised = (count: number) => ({
    family: "whip",
    variant: "ground-radials",
    frequency_hz: hz[0],
    more_hz: hz.slice(1),
    unit: "m",
    texts: { radiator: "4.9", feed_height: "0.2", radials_count: String(count), radials_length: "5" },
  });
  await put(app, `/api/revisions/${uid(61)}`, { deployment_id: uid(60), reason: "as put up", built: raised(8) });
  await page.goto(`${app.url}/o/${uid(1)}/sweep`);
  await page.getByRole("button", { name: /^Avocet/ }).click();
  await pick(page, "settings and marks");
  await expect(page.getByRole("heading", { level: 1, name: "No marks yet." })).toBeVisible();
  // What a rod shows that is 0.94 of the quarter-wave, less 6 cm of fitting.
  const out = (f: number) => (0.94 * 299.792458e6) / f / 4 - 0.06;
  for (const f of hz) {
    await page.getByLabel("Frequency, MHz").fill((f / 1e6).toFixed(3));
    await page.getByLabel("Whip out, m").fill(out(f).toFixed(3));
    await page.getByLabel("SWR found").fill("1.4");
    await page.getByRole("button", { name: "Save mark" }).click();
    await expect(page.getByRole("button", { name: `Change the mark for ${(f / 1e6).toFixed(3)} MHz` })).toBeVisible();
  }
  await expect(page.getByText("No mark yet for")).toHaveCount(0);
  // A slip is refused at its place and the text stays; an unlikely one is asked after.
  await page.getByLabel("Frequency, MHz").fill("3 cows");
  await page.getByRole("button", { name: "Save mark" }).click();
  await expect(page.getByText(/is not a unit of frequency/)).toBeVisible();
  await expect(page.getByLabel("Frequency, MHz")).toHaveValue("3 cows");
  // Printed: every number in the text of the sheet, the strip not, for it would be metres long.
  const sheet = await printed(page);
  for (const f of hz) {
    expect(sheet).toContain((f / 1e6).toFixed(3));
    expect(sheet).toContain(`${out(f).toFixed(3)} m`);
  }
  expect(sheet).toContain("8 of 5.00 m");
  expect(sheet).not.toContain("Save mark");
  // Used: a mark gives itself back, between marks the law of the rod is taken.
  await page.getByLabel("Frequency to set, MHz").fill("14.06");
  await expect(page.getByRole("heading", { level: 1 })).toHaveText(`Whip out ${out(14.06e6).toFixed(3)} m.`);
  await expect(page.getByText("As marked for 14.060 MHz. SWR was 1.4 there.")).toBeVisible();
  await page.getByLabel("Frequency to set, MHz").fill("14.3");
  await expect(page.getByText(/^Between your marks at 14\.060 and 18\.080 MHz/)).toBeVisible();
  const said = Number((await page.getByRole("heading", { level: 1 }).textContent())?.match(/[\d.]+/)?.[0]);
  expect(Math.abs(said - out(14.3e6))).toBeLessThan(0.01);
  await expect(page.getByText("These marks come from another set-up.")).toHaveCount(0);
  // Two radials today: the marks say so, here and on another outing.
  await put(app, `/api/revisions/${uid(62)}`, { deployment_id: uid(60), reason: "the dog took six radials", built: raised(2) });
  await page.reload();
  await expect(page.getByText("Radials: 8 of 5.00 m then, 2 of 5.00 m now.")).toBeVisible();
  await put(app, `/api/outings/${uid(70)}`, {
    name: "Hollow Fell",
    date: "2026-05-30",
    place: "IN36",
    ground: "rock",
    scheme: "four-stations",
  });
  await put(app, `/api/deployments/${uid(71)}`, { outing_id: uid(70), name: "Avocet again", plan });
  await put(app, `/api/revisions/${uid(72)}`, { deployment_id: uid(71), reason: "as put up", built: raised(8) });
  await page.goto(`${app.url}/o/${uid(70)}/sweep`);
  await pick(page, "settings and marks");
  await page.getByLabel("Frequency to set, MHz").fill("21.06");
  await expect(page.getByText("Found at Gannet Spit, now at Hollow Fell.")).toBeVisible();
  await expect(page.getByRole("heading", { level: 1 })).toHaveText(`Whip out ${out(21.06e6).toFixed(3)} m.`);
  // One is taken out and brought back.
  await page.getByRole("button", { name: "Change the mark for 28.060 MHz" }).click();
  await page.getByRole("button", { name: "Delete" }).click();
  await expect(page.getByRole("button", { name: "Change the mark for 28.060 MHz" })).toHaveCount(0);
  await page.getByRole("button", { name: "Undo" }).click();
  await expect(page.getByRole("button", { name: "Change the mark for 28.060 MHz" })).toBeVisible();
  // A tuner's coil by letters, found by a field-strength meter: the same way stands on the card.
  await page.getByLabel("Frequency, MHz").fill("10.11");
  await page.getByText("Dials of a tuner behind it").click();
  await page.getByLabel("Tuner, coil").fill("C to D");
  await page.getByLabel("Peak reading").fill("42 uA, 3 m off");
  await page.getByRole("button", { name: "Save mark" }).click();
  await expect(page.getByText(/"C to D" is no reading of a dial/)).toBeVisible();
  await page.getByLabel("Tuner, coil").fill("C-D");
  await page.getByRole("button", { name: "Save mark" }).click();
  await expect(page.getByRole("cell", { name: "C-D" })).toBeVisible();
  await expect(page.getByRole("cell", { name: /peaked to 42 uA, 3 m off/ })).toBeVisible();
  await page.getByLabel("Frequency to set, MHz").fill("10.11");
  await expect(page.getByText(/It was peaked to 42 uA, 3 m off there/)).toBeVisible();
});

test("the next mark is typed while the last is on its way", async ({ page, app }) => {
  await outing(app);
  const plan = { family: "whip", variant: "ground-radials", frequency_hz: 18.08e6, texts: { for: "18.08" }, unit: "m" };
  await put(app, `/api/deployments/${uid(60)}`, { outing_id: uid(1), name: "Sanderling", plan });
  const built = { ...plan, texts: { radiator: "3.9", feed_height: "0.2", radials_count: "4", radials_length: "4" } };
  await put(app, `/api/revisions/${uid(61)}`, { deployment_id: uid(60), reason: "as put up", built });
  await page.goto(`${app.url}/o/${uid(1)}/sweep`);
  await page.getByRole("button", { name: /^Sanderling/ }).click();
  await pick(page, "settings and marks");
  const [hz, out, swr] = ["Frequency, MHz", "Whip out, m", "SWR found"].map((l) => page.getByLabel(l));
  const keep = page.getByRole("button", { name: "Save mark" });
  await hz?.fill("18.08");
  await out?.fill("3.91");
  await swr?.fill("1.2");
  await swr?.press("Enter");
  await expect(page.getByRole("button", { name: "Change the mark for 18.080 MHz" })).toBeVisible();
  // Nothing of it stands in the way of the next, which is begun where one is.
  await expect(out as Locator).toHaveValue("");
  await expect(swr as Locator).toHaveValue("");
  await expect(hz as Locator).toBeFocused();
  await page.route("**/api/marks/**", async (r) => {
    await new Promise((done) => setTimeout(done, 1500));
    await r.continue();
  });
  await hz?.fill("24.9");
  await out?.fill("2.85");
  await swr?.fill("1.5");
  await keep.click();
  await hz?.fill("28.06");
  await out?.fill("2.5");
  await expect(page.getByRole("button", { name: "Change the mark for 24.900 MHz" })).toBeVisible();
  await expect(swr as Locator).toHaveValue("");
  await expect(hz as Locator).toHaveValue("28.06");
  await expect(out as Locator).toHaveValue("2.5");
  await page.reload();
  await expect(out as Locator).toHaveValue("2.5");
});

test("a tap between marks, its strip at true size", async ({ page, demo }) => {
  const tags = await (await fetch(`${demo.url}/api/tags`)).json();
  const wigeon = tags.find((t: { tag: { name: string } }) => t.tag.name === "Wigeon");
  await page.goto(`${demo.url}/o/${wigeon.outing_id}/sweep`);
  await page.getByRole("button", { name: /^Wigeon/ }).click();
  await pick(page, "settings and marks");
  await page.getByLabel("Frequency to set, MHz").fill("10.14");
  await expect(page.getByText(/^Between your marks at 10\.120 and 14\.060 MHz/)).toBeVisible();
  await expect(page.getByText(/^± [\d.]+ mm, from the end of the winding nearer the feed/)).toBeVisible();
  await page.getByText("Marks to print at true size").click();
  const strip = page.getByRole("img", { name: /tap position: 7\.030 at/ });
  const marks = [...((await strip.getAttribute("aria-label")) ?? "").matchAll(/at ([\d.]+) mm/g)].map((m) => Number(m[1]));
  expect(marks).toHaveLength(6);
  // A CSS millimetre is 96/25.4 pixels, on screen as on paper; the two marks lie as far apart as they say.
  const x = await strip.locator("g path").evaluateAll((all) => all.map((p) => p.getBoundingClientRect().left));
  expect(Math.abs((x[0] as number) - (x[5] as number)) / (96 / 25.4)).toBeCloseTo(Math.abs((marks[0] as number) - (marks[5] as number)), 0);
});

test("a dip that was swept is kept as a mark, with what stood recorded", async ({ page, app }) => {
  await outing(app);
  await put(app, `/api/deployments/${uid(64)}`, {
    outing_id: uid(1),
    name: "Sora",
    plan: { family: "whip", variant: "ground-radials", frequency_hz: 14.06e6 },
  });
  const built = {
    family: "whip",
    variant: "ground-radials",
    frequency_hz: 14.06e6,
    unit: "m",
    texts: { radiator: "5.05", whip_radius: "8 mm", feed_height: "0.02", radials_count: "16", radials_length: "5" },
  };
  await put(app, `/api/revisions/${uid(65)}`, { deployment_id: uid(64), reason: "as put up", built });
  await page.goto(`${app.url}/o/${uid(1)}/sweep`);
  await page.getByRole("button", { name: /^Sora/ }).click();
  await page.getByRole("button", { name: "Sweep 20 m" }).click();
  await page.getByRole("button", { name: "Save to revision 1" }).click();
  await expect(page.getByText("(simulated)").first()).toBeVisible();
  await pick(page, "settings and marks");
  const swept = page.getByRole("button", { name: /^1[345]\.\d+ MHz, SWR 1\.\d\d, whip out 5\.050 m$/ });
  const [mhz] = ((await swept.textContent()) ?? "").split(" ");
  await swept.click();
  await expect(page.getByLabel("Frequency, MHz")).toHaveValue(mhz ?? "");
  await page.getByRole("button", { name: "Save mark" }).click();
  await page.getByLabel("Frequency to set, MHz").fill(mhz ?? "");
  await expect(page.getByRole("heading", { level: 1 })).toHaveText("Whip out 5.050 m.");
});
