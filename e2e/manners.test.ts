import { expect, outing, test, uid } from "./app";

test("keys lead everywhere and are explained", async ({ page, demo }) => {
  await page.goto(demo.url);
  await page.getByRole("link", { name: "Gannet Spit" }).click();
  await expect(page.getByRole("heading", { name: /^Daylight until|Put up the|Nothing fits/ })).toBeVisible();
  await page.locator("body").press("?");
  await expect(page.getByRole("dialog")).toContainText("theme: light, high contrast, dark");
  await page.keyboard.press("Escape");
  await expect(page.getByRole("dialog")).toBeHidden();
  const arrived: [string, string, RegExp][] = [
    ["2", "cut", /^Cut 1 radiator/],
    ["3", "raise", /^Recorded as/],
    ["4", "sweep", /^No change needed|then sweep again|The dip lies|the match is not|waits for its sweep/],
    ["5", "work", /of 10/],
    ["6", "weigh", /between Heron and Stilt|faster/],
    ["1", "scout", /^Daylight until|Put up the|Nothing fits/],
  ];
  for (const [key, stage, heading] of arrived) {
    await page.keyboard.press(key);
    await expect(page.getByRole("heading", { name: heading })).toBeVisible();
    await expect(page).toHaveURL(new RegExp(`/${stage}$`));
    if (stage === "work") {
      // The line takes what is typed until Escape leaves it.
      await expect(page.getByLabel(/Call, reports/)).toBeFocused();
      await page.keyboard.press("Escape");
    }
  }
  await page.keyboard.press("t");
  await expect(page.locator("html")).toHaveAttribute("data-light", "sun");
  await page.keyboard.press("0");
  await expect(page.getByRole("heading", { name: /4 outings/ })).toBeVisible();
  await page.reload();
  await expect(page.locator("html")).toHaveAttribute("data-light", "sun");
});

test("in Work, space on an empty line changes the antenna, and the log follows", async ({ page, demo }) => {
  await page.goto(demo.url);
  await page.getByRole("link", { name: "Gannet Spit" }).click();
  await page.getByRole("link", { name: "Work" }).click();
  const using = page.getByRole("button", { name: /^Antenna in use/ });
  await expect(using).toHaveAccessibleName(/A, Heron/);
  const line = page.getByLabel(/Call, reports/);
  await line.press("Space");
  await expect(using).toHaveAccessibleName(/B, Stilt/);
  await expect(line).toHaveValue("");
  await line.fill("Q9ZZZ 559 579 20m CW");
  await expect(page.locator("#line-read")).toContainText("with B");
  await line.press("Enter");
  await expect(page.getByRole("row", { name: /Q9ZZZ/ })).toContainText("B");
  await line.fill("Q9ZZZ");
  await expect(page.getByText(/Q9ZZZ was worked at .* on 20 m already/)).toBeVisible();
});

test("an outing comes off the shelf and back", async ({ page, demo }) => {
  await page.goto(demo.url);
  await expect(page.getByRole("heading", { name: /4 outings/ })).toBeVisible();
  await page.getByRole("button", { name: "Delete" }).first().click();
  await expect(page.getByRole("heading", { name: /3 outings/ })).toBeVisible();
  await page.getByRole("button", { name: "Undo" }).click();
  await expect(page.getByRole("heading", { name: /4 outings/ })).toBeVisible();
});

test("the cut list prints without the controls", async ({ page, app }) => {
  await outing(app);
  await page.goto(`${app.url}/o/${uid(1)}/cut`);
  await expect(page.getByRole("row", { name: /1 radiator/ })).toBeVisible();
  await page.emulateMedia({ media: "print" });
  await expect(page.getByRole("row", { name: /1 radiator/ })).toBeVisible();
  await expect(page.getByRole("button", { name: "Print cut list" })).toBeHidden();
  await expect(page.getByRole("navigation", { name: "Stages of the outing" })).toBeHidden();
});

test.describe("with the link down", () => {
  test.use({ serviceWorkers: "allow" });
  test("what was read last stays readable after a reload", async ({ page, demo }) => {
    await page.goto(demo.url);
    await page.evaluate(() => navigator.serviceWorker.ready.then(() => undefined));
    await page.reload();
    await expect(page.getByRole("heading", { name: /4 outings/ })).toBeVisible();
    await page.waitForFunction(async () => (await caches.keys()).some((k) => k.includes("read-last")));
    await demo.stop();
    await page.reload();
    await expect(page.getByRole("heading", { name: /4 outings/ })).toBeVisible();
  });
});

test("a lesson is kept, and can be taken back", async ({ page, demo }) => {
  await page.goto(demo.url);
  await page.getByRole("link", { name: "Gannet Spit" }).click();
  await page.getByRole("link", { name: "Weigh" }).click();
  const lesson = page.getByLabel("The lesson of Heron");
  await expect(lesson).toHaveValue(/metal clip/);
  await lesson.fill("");
  await page.getByRole("button", { name: "Save notes" }).first().click();
  await expect(page.getByText("Saved.")).toBeVisible();
  await page.reload();
  await expect(page.getByLabel("The lesson of Stilt")).toBeVisible();
  await expect(lesson).toHaveValue("");
});

test("a screen whose data are not there says so", async ({ page, demo }) => {
  await page.goto(`${demo.url}/o/${uid(77)}/sweep`);
  await expect(page.getByRole("alert")).toContainText("Not found");
});
