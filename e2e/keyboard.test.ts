import { writeFileSync } from "node:fs";
import { join } from "node:path";
import { expect, press, resonator, tabTo, test, type } from "./app";

/** RG-58: 4.6 dB at 10 MHz and 16 dB at 100 MHz per 100 m, as k1 sqrt(f) + k2 f. */
const k2 = (16 - 4.6 * Math.sqrt(10)) / (100 - 10 * Math.sqrt(10));
const k1 = (4.6 - 10 * k2) / Math.sqrt(10);
const matched = (mhz: number, metres: number) => ((k1 * Math.sqrt(mhz) + k2 * mhz) * metres) / 100;
function withSwr(dB: number, swr: number) {
  const a = 10 ** (dB / 10);
  const g2 = ((swr - 1) / (swr + 1)) ** 2;
  return 10 * Math.log10((a * a - g2) / (a * (1 - g2)));
}

test("from the empty database to a comparison, by keyboard alone", async ({ page, app }) => {
  // Asking for choosers from the start; the first one would otherwise race with the asking.
  page.on("filechooser", () => undefined);
  await page.goto(app.url);
  await expect(page.getByRole("heading", { name: "Welcome" })).toBeVisible();
  await press(page, "Set up your station");

  await expect(page.getByLabel("Your call")).toBeFocused();
  await page.keyboard.type("q1reed");
  await press(page, "Save settings");
  await expect(page.getByLabel("Name")).toBeFocused();
  await page.keyboard.type("Gannet Spit");
  await type(page, "Date, UTC", "2026-05-16");
  await type(page, "Place", "46.5 N 13 W");
  await expect(page.getByText("IN36mm")).toBeVisible();
  await press(page, "Save and plan an antenna");

  // The plan of a dipole, and its arithmetic: cut = electrical + knot + solder + trim.
  await expect(page).toHaveURL(/\/cut$/);
  await tabTo(page, /end-fed$/);
  for (let i = 0; i < 4; i++) await page.keyboard.press("ArrowLeft");
  await type(page, "Frequencies, MHz", "7.1");
  await type(page, "Feed height, m", "19' 8 1/4\"");
  await expect(page.getByText("6.001 m").first()).toBeVisible();
  await expect(page.getByRole("heading", { name: /^Cut 2 legs of/ })).toBeVisible();
  const row = page.getByRole("row", { name: /2 legs/ });
  const numbers = (await row.innerText()).match(/[\d.]+ (?=m\b)/g)?.map(Number) ?? [];
  const [electrical = 0, cut = 0] = [numbers[0], numbers[numbers.length - 1]];
  expect(electrical).toBeGreaterThan(9.4);
  expect(electrical).toBeLessThan(10.3);
  expect(cut).toBeCloseTo(electrical * 1.02 + 0.08 + 0.02, 2);
  await type(page, "Antenna name", "Heron");
  await press(page, "Save plan and continue to Raise");

  await expect(page).toHaveURL(/\/raise$/);
  await type(page, "First leg, m", "10.15 m");
  await type(page, "Second leg, m", "10.15 m");
  await type(page, "Coax", "RG-58");
  await type(page, "Coax length, m", "20 m");
  for (const danger of [
    "No power line within falling distance",
    "No thunderstorm near",
    "Keep people away from the wire while you send",
    "Pole, guys and stakes",
  ]) {
    await tabTo(page, danger);
    await page.keyboard.press("Space");
  }
  await press(page, "Save as revision 1");

  // A resonator at 6.95 MHz, R 60, Q 11: lowest SWR 60/50 = 1.2 at resonance, too long for 7.1 MHz.
  await expect(page).toHaveURL(/\/sweep$/);
  const file = join(app.data, "heron.s1p");
  writeFileSync(file, resonator(6.95e6, 60, 11, 6.5e6, 7.6e6, 10e3));
  await tabTo(page, "Attach a sweep");
  const chooser = page.waitForEvent("filechooser");
  await page.keyboard.press("Enter");
  await (await chooser).setFiles(file);
  await expect(page.getByRole("heading", { name: "111 points from 6.500 to 7.600 MHz" })).toBeVisible();
  await press(page, "Save to revision 1");
  await expect(page.getByRole("heading", { name: /^Make it as planned: fold back .* on each leg, then sweep again/ })).toBeVisible();
  const facts = page.locator("dl.facts");
  await expect(facts).toContainText("1.20");
  await expect(facts).toContainText("6.950");
  await expect(facts).toContainText("60 + j0 Ω");
  // Under 2: |G| = 1/3 with R = 60 on 50 ohm gives |X| = sqrt((110^2/9 - 100) / (8/9)) = 37.4 ohm.
  const x = Math.sqrt((110 ** 2 / 9 - 10 ** 2) / (8 / 9));
  const ratio = x / (60 * 11);
  const width = 6950 * ratio; // f/f0 - f0/f = ratio at both edges, so they lie f0*ratio apart
  const shown = Number(/under 2\s+(\d+) kHz/.exec(await facts.innerText())?.[1]);
  expect(Math.abs(shown / width - 1)).toBeLessThan(0.01);
  await press(page, "Folded: save as revision 2");
  await expect(page.getByText("Saved as revision 2")).toBeVisible();

  // The second antenna: a vertical, and three readings from a meter.
  await tabTo(page, /Scout/);
  await page.keyboard.press("2");
  await expect(page).toHaveURL(/\/cut$/);
  await press(page, "Another antenna");
  await tabTo(page, /(dipole|end-fed|vertical)$/);
  for (let i = 0; i < 5; i++) await page.keyboard.press("ArrowRight");
  await expect(page.getByRole("radio", { name: "radials on the ground" })).toBeChecked();
  await type(page, "Antenna name", "Stilt");
  await press(page, "Save plan and continue to Raise");
  await type(page, "Radiator, m", "10.2 m");
  await type(page, "Coax", "RG-58");
  await type(page, "Coax length, m", "10 m");
  await press(page, "Save as revision 1");
  await press(page, "Type readings");
  await type(page, /Frequency in MHz and SWR/, "7.0 1.9\n7.1 1.4\n7.2 2.1");
  await press(page, "Save to revision 1");
  await expect(page.getByText("only SWR was measured")).toBeVisible();

  // The log: three contacts with A, three with B; then one is corrected and that is undone.
  await tabTo(page, /Scout/);
  await page.keyboard.press("5");
  await expect(page).toHaveURL(/\/work$/);
  const lines = [
    "Q2TAV 59 57 @2026-05-16T14:00 40m SSB ^IN46 ~A",
    "Q3TAV 59 55 @2026-05-16T14:10 ^IN56 ~A",
    "Q4TAV/P 59 57 @2026-05-16T14:20 ^JN46 ~A",
    "Q5TAV 57 55 @2026-05-16T15:00 ^IN56 ~B",
    "Q6TAV 57 57 @2026-05-16T15:30 ^IN46 ~B",
    "Q7TAV 57 58 @2026-05-16T16:00 ^IN46 ~B",
  ];
  for (const line of lines) {
    await type(page, /Call, reports/, line);
    await page.keyboard.press("Enter");
    await expect(page.getByRole("cell", { name: line.split(" ")[0], exact: true })).toBeVisible();
  }
  await type(page, /Call, reports/, "Q2TAV 59 59 @2026-05-16T14:30 41m");
  await page.keyboard.press("Enter");
  await expect(page.getByText('"41m" is not a band')).toBeVisible();
  await expect(page.getByLabel(/Call, reports/)).toHaveValue(/41m/);
  await page.keyboard.press("ControlOrMeta+a");
  await page.keyboard.press("Delete");
  await expect(page.getByRole("heading", { name: /^6 of 10/ })).toBeVisible();
  await press(page, "Edit Q3TAV at 14:10");
  await type(page, "Call", "Q3TAX");
  await press(page, "Save contact");
  await expect(page.getByRole("cell", { name: "Q3TAX", exact: true })).toBeVisible();
  await press(page, "Undo");
  await expect(page.getByRole("cell", { name: "Q3TAV", exact: true })).toBeVisible();

  // The comparison, against hand calculation.
  await tabTo(page, /Scout/);
  await page.keyboard.press("6");
  await expect(page).toHaveURL(/\/weigh$/);
  const air = (what: string) => page.getByRole("row", { name: new RegExp(`^${what}`) });
  // Three contacts are no rate, whatever lies between them.
  await expect(air("contacts per hour").getByText("too few for a rate")).toHaveCount(2);
  // From 13 W to the middles of IN46, IN56, JN46 (11 W, 9 W, 9 E), all at 46.5 N.
  const km = (dLon: number) => 2 * 6371.0088 * Math.asin(Math.cos((46.5 * Math.PI) / 180) * Math.sin((dLon * Math.PI) / 360));
  await expect(air("distance, median")).toContainText(`${km(4).toFixed(0)} km`);
  await expect(air("distance, median")).toContainText(`${km(2).toFixed(0)} km`);
  await expect(air("farthest")).toContainText(`${km(22).toFixed(0)} km Q4TAV/P`);
  // Cable: the dip of A lies below the band, so its best place in it is 7.0 MHz, with X = 60*11*(7/6.95 - 6.95/7) ohm.
  const react = 60 * 11 * (7 / 6.95 - 6.95 / 7);
  const gamma = Math.hypot(10, react) / Math.hypot(110, react);
  const inBand = (1 + gamma) / (1 - gamma);
  const cable = page.getByRole("row", { name: /^40 m/ });
  await expect(cable).toContainText(`${withSwr(matched(7.0, 20), inBand).toFixed(2)} dB`);
  // What is typed was read at the radio: the cable hides some of the mismatch at its far end.
  const far = (0.4 / 2.4) * 10 ** (matched(7.1, 10) / 10);
  await expect(cable).toContainText(`${withSwr(matched(7.1, 10), (1 + far) / (1 - far)).toFixed(2)} dB`);
  await expect(page.getByRole("row", { name: /^coax/ })).toContainText("20.00 m of RG-58");
  await expect(page.getByRole("heading", { level: 1 })).toHaveText(/Too few contacts for a rate/);
  await expect(page.getByText(/other hour: about 1.3 h apart/)).toBeVisible();
});
