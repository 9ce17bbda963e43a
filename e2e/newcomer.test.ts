import { expect, type Page } from "@playwright/test";
import { type App, test } from "./app";
import { Hand } from "./hand";

// From an empty notebook to two antennas compared, as somebody who has never seen it: every press and every scroll is counted.
async function firstComparison(page: Page, app: App, thumb: boolean) {
  const hand = new Hand(page, thumb);
  const button = (name: string | RegExp) => page.getByRole("button", { name });
  const headline = page.getByRole("heading", { level: 1 });
  const dangers = async () => {
    await expect(page.locator("label.danger").first()).toBeVisible();
    for (const danger of await page.locator("label.danger").all()) await hand.press(danger, "danger");
  };
  const settled = () => expect(page.getByRole("progressbar")).toHaveCount(0);

  await page.goto(app.url);
  await hand.measure("empty notebook");
  await hand.press(button("Set up your station"), "set up yourself");
  await hand.measure("settings");
  await hand.write(page.getByLabel("Your call"), "Q1REED", "call");
  await hand.send(button("Save settings"), "keep settings");
  await hand.measure("new outing");
  await hand.write(page.getByLabel("Name"), "Alder Common", "name of the outing");
  await hand.write(page.getByLabel("Place"), "IN36xl", "place");
  await hand.send(button("Save and plan an antenna"), "keep the outing");

  await expect(headline).toHaveText(/^Cut 1 radiator/);
  await settled();
  await hand.measure("cut");
  const kind = page.getByRole("radio", { name: "end-fed", exact: true });
  if (!(await kind.isChecked())) await hand.press(page.locator("label").filter({ has: kind }), "end-fed");
  await hand.press(page.getByRole("group", { name: "Bands" }).getByRole("button", { name: "20 m", exact: true }), "20 m");
  await hand.write(page.getByLabel("Pole, m"), "7", "pole height");
  await hand.press(button(/Save plan/), "keep the plan");

  await expect(page).toHaveURL(/raise$/);
  await settled();
  await hand.measure("raise");
  const radiator = page.getByLabel("Radiator, m");
  const cut = Number.parseFloat(await radiator.inputValue());
  await hand.write(radiator, (cut + 0.4).toFixed(2), "radiator");
  await dangers();
  await hand.press(button("Save as revision 1"), "keep r1");

  await expect(page).toHaveURL(/sweep$/);
  await settled();
  await hand.measure("sweep");
  await hand.press(button("Type readings"), "type readings");
  await hand.write(page.getByLabel(/Frequency in MHz and SWR/), "7.00 1.5\n7.05 1.7\n7.10 2.0\n7.20 2.7", "readings");
  await hand.press(button("Save to revision 1"), "keep the readings");
  await settled();
  await hand.press(button(/save as revision 2/), "follow the advice");
  await settled();

  await hand.press(page.getByRole("link", { name: /Work/ }), "work");
  const line = page.getByLabel(/Call, reports/);
  for (const [i, text] of ["Q2TAV 59 57 40m SSB", "Q3TAV 59 55", "Q4TAV 57 59", "Q5TAV 59 59", "Q6TAV 55 53", "Q7TAV 59 57"].entries()) {
    await hand.write(line, text, "log line");
    await line.press("Enter");
    await expect(page.getByRole("cell", { name: text.split(" ")[0] ?? "", exact: true })).toBeVisible();
    if (i === 0) await hand.measure("work");
  }

  await hand.press(page.getByRole("link", { name: /Cut/ }), "cut");
  await hand.press(button("Another antenna"), "another antenna");
  await hand.press(page.locator("label").filter({ has: page.getByRole("radio", { name: "vertical", exact: true }) }), "vertical");
  await hand.press(page.locator("label", { hasText: "raised radials" }), "raised radials");
  await hand.press(button(/Save plan/), "keep the plan");
  await expect(page).toHaveURL(/raise$/);
  await settled();
  await dangers();
  await hand.press(button("Save as revision 1"), "keep r1");
  await expect(page).toHaveURL(/sweep$/);
  await hand.press(page.getByRole("link", { name: /Weigh/ }), "weigh");
  await settled();
  await hand.measure("weigh");
  return hand;
}

test("a newcomer's first comparison at the table", async ({ page, app }) => {
  const hand = await firstComparison(page, app, false);
  console.log(`at the table: ${hand.presses} presses, ${hand.scrolls} scrolls, at most ${hand.says()}`);
  expect(hand.presses, hand.steps.join("; ")).toBeLessThanOrEqual(30);
  expect(hand.scrolls, hand.steps.join("; ")).toBeLessThanOrEqual(4);
  expect(hand.longest.glasses, hand.longest.at).toBeLessThanOrEqual(2.5);
});

test.describe("by thumb", () => {
  test.use({ viewport: { width: 390, height: 844 }, hasTouch: true, isMobile: true });
  test("a newcomer's first comparison by thumb", async ({ page, app }) => {
    const hand = await firstComparison(page, app, true);
    console.log(`by thumb: ${hand.presses} taps, ${hand.scrolls} swipes, at most ${hand.says()}`);
    expect(hand.presses, hand.steps.join("; ")).toBeLessThanOrEqual(34);
    expect(hand.scrolls, hand.steps.join("; ")).toBeLessThanOrEqual(10);
    expect(hand.longest.glasses, hand.longest.at).toBeLessThanOrEqual(2.5);
  });
});
