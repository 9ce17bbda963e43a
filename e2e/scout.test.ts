import { expect, outing, press, put, tabTo, test, type, uid } from "./app";

test("from an empty site to a choice, a packing list and a schedule, by keyboard", async ({ page, app }) => {
  const me = await (await fetch(`${app.url}/api/me`)).json();
  await put(app, "/api/me", { ...me, call: "Q1REED" });
  await put(app, `/api/outings/${uid(1)}`, { name: "Gannet Spit", date: "2026-05-16", place: "IN36", ground: "average" });
  await page.goto(`${app.url}/o/${uid(1)}/scout`);
  await tabTo(page, /Site objects, one per line/);
  await page.keyboard.press("ControlOrMeta+a");
  for (const line of ["area, 40 by 30 m", "tree, 10 m at 320 degrees, 12 m high", "bench, 6 m at 90"]) {
    await page.keyboard.type(line);
    await page.keyboard.press("Enter");
  }
  await type(page, /Frequencies, MHz/, "7.1 14.06");
  await type(page, /^From, UTC/, "noon");
  await expect(page.getByText(/"noon" is not a time of day; write it like 17:30/).last()).toBeVisible();
  await type(page, /^From, UTC/, "09:00");
  await type(page, /^Until, UTC/, "14:00");
  await expect(page.getByRole("heading", { name: /^Put up the/ })).toBeVisible();
  const first = await page.getByRole("heading", { level: 1 }).innerText();
  await expect(page.getByRole("region", { name: "Band conditions" })).toContainText("Begin to pack by");
  await expect(page.getByRole("region", { name: "Packing list" })).toContainText("coax");

  // What cannot be read is said at its line, and nothing is lost.
  await tabTo(page, /Site objects, one per line/);
  await page.keyboard.press("ControlOrMeta+End");
  await page.keyboard.type("power line, over there");
  await expect(page.getByText(/line 4, power line, over there/)).toBeVisible();

  // A power line near: everything is refused, with the figure; farther off it fits again.
  const lines = page.getByLabel("Site objects, one per line");
  const power = async (m: number) => {
    await lines.focus();
    await page.keyboard.press("ControlOrMeta+a");
    await page.keyboard.type("area, 6 by 6 m");
    await page.keyboard.press("Enter");
    await page.keyboard.type(`power line, ${m} m at 270 to ${m} m at 90, 8 m high`);
  };
  await power(30);
  await expect(page.getByText("An overhead line is within reach")).toBeVisible();
  await expect(page.getByRole("heading", { level: 1 })).toContainText("Nothing fits");
  await expect(page.getByText(/too near to the overhead line/).first()).toBeVisible();
  await lines.focus();
  await page.keyboard.press("ControlOrMeta+a");
  await page.keyboard.type("area, 40 by 30 m");
  await page.keyboard.press("Enter");
  await page.keyboard.type("power line, 90 m at 300 to 90 m at 60, 8 m high");
  await expect(page.getByRole("heading", { name: /^Put up the/ })).toBeVisible();
  await expect(page.getByText("An overhead line is within reach")).toBeHidden();
  expect(first).not.toBe("");

  await press(page, "Save site and goal");
  await expect(page.getByText("Saved.")).toBeVisible();
  const kept = await (await fetch(`${app.url}/api/sites`)).json();
  expect(kept.sites[0].lines).toHaveLength(2);

  // The choice is carried to Cut, and from there to Raise, without a length typed twice.
  const name = await page.locator(".candidate.on .candidatename").innerText();
  await press(page, "Plan this antenna");
  await expect(page).toHaveURL(/\/cut$/);
  await expect(page.getByLabel("Frequencies, MHz")).toHaveValue(/7\.1/);
  await expect(page.getByRole("heading", { name: /^Cut |^Wind |turns|for/ }).first()).toBeVisible();
  expect(name.length).toBeGreaterThan(3);

  // And from there to Raise: what was planned stands there as what was put up.
  await press(page, "Save plan and continue to Raise");
  await expect(page).toHaveURL(/\/raise$/);
  const radiator = page.getByLabel(/^(Radiator|First leg|Leg|Whip|Length)/).first();
  await expect(radiator).toHaveValue(/\d/);
  await expect(page.getByRole("heading", { level: 1 })).toBeVisible();
});

test("a pole put too near to a power line is refused with the figure, and moving it mends the plan, by keyboard", async ({ page, app }) => {
  await outing(app);
  await page.goto(`${app.url}/o/${uid(1)}/scout`);
  await page.getByLabel("Site objects, one per line").fill("area, 60 by 44 m\npower line, 55 m at 294.7 to 55 m at 65.3, 8 m high");
  await expect(page.getByRole("heading", { name: /^Put up the/ })).toBeVisible();
  const pole = page.getByRole("button", { name: "Move the pole" });
  // Two metres at a time, until nothing may stand there.
  const heading = page.getByRole("heading", { level: 1 });
  for (let i = 0; i < 25 && !(await heading.innerText()).startsWith("Nothing fits"); i++) {
    for (let k = 0; k < 4; k++) await pole.press("ArrowUp");
    await page.waitForResponse((r) => r.url().endsWith("/api/compute/scout") && r.ok());
    await page.waitForTimeout(300);
  }
  await expect(page.getByText("An overhead line is within reach")).toBeVisible();
  await expect(page.getByRole("heading", { level: 1 })).toContainText("Nothing fits");
  await expect(page.getByText(/too near to the overhead line, where you put its pole/).first()).toBeAttached();
  for (let i = 0; i < 50; i++) await pole.press("ArrowDown");
  await expect(page.getByRole("heading", { name: /^Put up the/ })).toBeVisible();
  await expect(page.getByText(/beyond all that may fall or swing there/)).toBeVisible();
  await page.getByRole("button", { name: "Place it automatically" }).press("Enter");
  await expect(page.getByText("The pole stands where you put it.")).toBeHidden();
});

test("a bulletin is filled in and marked, and a pasted one is read, by keyboard", async ({ page, app }) => {
  await outing(app);
  await page.goto(`${app.url}/o/${uid(1)}/scout`);
  await press(page, "Fill in a simulated bulletin");
  const text = page.getByLabel("Bulletin: weather, lightning, sun");
  await expect(text).toHaveValue(/^simulated\nwind [\d.]+ m\/s/);
  await expect(page.getByText("The bulletin is simulated")).toBeVisible();
  await text.fill("wind 9 m/s, gusts 14 m/s; thunderstorms likely; sea state moderate");
  await expect(page.getByText("Thunderstorms are forecast")).toBeVisible();
  await expect(page.getByText(/not understood, and so ignored: "sea state moderate"/)).toBeVisible();
  await expect(page.getByText(/70 % likely; 30 minutes after the last thunder/)).toBeVisible();
  await text.fill("K 12");
  await expect(page.getByText("a K index of 12 lies outside of 0 to 9", { exact: true })).toBeVisible();
  await expect(text).toHaveValue("K 12");
});

test.describe("in the hand", () => {
  test.use({ viewport: { width: 390, height: 844 }, hasTouch: true, isMobile: true });

  test("from an empty site to a choice, a packing list and a schedule, by thumb", async ({ page, app }) => {
    const me = await (await fetch(`${app.url}/api/me`)).json();
    await put(app, "/api/me", { ...me, call: "Q1REED" });
    await put(app, `/api/outings/${uid(1)}`, { name: "Gannet Spit", date: "2026-05-16", place: "IN36", ground: "average" });
    await page.goto(`${app.url}/o/${uid(1)}/scout`);
    const fold = (name: string) =>
      page
        .locator("summary")
        .filter({ hasText: new RegExp(`^${name}`) })
        .tap();
    await fold("Site");
    const lines = page.getByLabel("Site objects, one per line");
    await lines.fill("area, 30 by 24 m\ntree, 9 m at 300, 11 m high\nbench, 5 m at 90");
    await fold("Goal");
    await page.getByLabel("Frequencies, MHz").fill("7.1 14.06");
    await page.getByLabel("From, UTC").fill("09:00");
    await page.getByLabel("Until, UTC").fill("14:00");
    await page.getByText("near, all directions").tap();
    await expect(page.getByRole("heading", { name: /^Put up the/ })).toBeVisible();
    await fold("Band conditions");
    await expect(page.getByText(/Begin to pack by 1\d:\d\d/).last()).toBeVisible();
    await fold("Packing list");
    const list = page.getByRole("region", { name: "Packing list" });
    await list.getByText("tape, ties, knife").tap();
    await expect(list.getByRole("checkbox", { name: /tape, ties/ })).toBeChecked();
    await fold("Hazards");
    await expect(page.getByText("Pole, guys and stakes")).toBeVisible();

    // Another choice is looked at, kept, and carried to Cut.
    await page.locator(".candidatehead").nth(1).tap();
    const second = await page.locator(".candidate.on .candidatename").innerText();
    await page.getByRole("button", { name: "Save site and goal" }).tap();
    await expect(page.getByText("Saved.")).toBeVisible();
    await expect(page.locator(".candidate.on .candidatename")).toHaveText(second);
    await page.getByRole("button", { name: "Plan this antenna" }).tap();
    await expect(page).toHaveURL(/\/cut$/);
    await expect(page.getByLabel("Frequencies, MHz")).toHaveValue(/7\.1/);
  });
});

test("the weights move the list as they are dragged, and the site is moved by hand, by thumb", async ({ page, app }) => {
  await page.setViewportSize({ width: 390, height: 844 });
  await outing(app);
  await page.goto(`${app.url}/o/${uid(1)}/scout`);
  const fold = (name: string) =>
    page
      .locator("summary")
      .filter({ hasText: new RegExp(`^${name}`) })
      .click();
  await fold("Site");
  await page.getByLabel("Start from").selectOption({ label: "Clearing with one tree" });
  await expect(page.getByRole("heading", { name: /^Put up the/ })).toBeVisible();
  const names = () => page.locator(".candidatename").allInnerTexts();
  const before = await names();
  await fold("Priorities");
  await page.getByRole("slider", { name: "Signal" }).fill("0");
  await page.getByRole("slider", { name: "Minutes" }).fill("3");
  await expect.poll(names).not.toEqual(before);

  const tree = page.getByRole("button", { name: "Move the tree" });
  await tree.scrollIntoViewIfNeeded();
  const box = await tree.boundingBox();
  if (!box) throw new Error("there is no tree");
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width / 2 + 40, box.y + box.height / 2 + 20, { steps: 4 });
  await page.mouse.up();
  await expect(page.getByLabel("Site objects, one per line")).not.toHaveValue(/tree, 10 m at 320/);
  await expect(page.getByLabel("Site objects, one per line")).toHaveValue(/tree, [\d.]+ m at \d+, 12/);

  // What is drawn into the plan stands as a line, and a corner of the area can be moved.
  const plan = page.getByRole("group", { name: "The site from above" });
  await plan.scrollIntoViewIfNeeded();
  const touch = page.getByLabel("Tool of the site plan");
  await touch.selectOption({ label: "Draw: path" });
  await plan.click({ position: { x: 60, y: 80 } });
  await plan.click({ position: { x: 260, y: 90 } });
  await page.getByRole("button", { name: "Done" }).click();
  await expect(page.getByLabel("Site objects, one per line")).toHaveValue(/\npath, [\d.]+ m at \d+ to [\d.]+ m at \d+$/);
  await touch.selectOption({ label: "Move corners" });
  await page.getByRole("button", { name: "Move the area, point 1" }).press("ArrowUp");
  await expect(page.getByLabel("Site objects, one per line")).toHaveValue(/^area, [\d.]+ m at \d+ to /);

  // Ticks of the packing list stay, also with the link down.
  await fold("Packing list");
  await page.context().setOffline(true);
  await page.getByRole("region", { name: "Packing list" }).getByRole("checkbox").first().check();
  await page.context().setOffline(false);
  await page.reload();
  await fold("Packing list");
  await expect(page.getByRole("region", { name: "Packing list" }).getByRole("checkbox").first()).toBeChecked();

  // What was missing is asked once, and kept for the next time.
  await fold("Afterwards");
  await page.getByLabel("Missing, one per line").fill("the choke");
  await page.getByRole("button", { name: "Save for next time" }).click();
  await expect(page.getByText("Saved for next time.")).toBeVisible();
  const kept = await (await fetch(`${app.url}/api/outings/${uid(1)}`)).json();
  expect(kept.outing.missing).toBe("the choke");
});
