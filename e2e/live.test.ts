import type { Browser, Page } from "@playwright/test";
import { type App, expect, outing, test, uid } from "./app";

/** A device of its own: with its own storage, as another phone has it. */
async function device(browser: Browser, app: App, phone = false): Promise<Page> {
  const context = await browser.newContext(phone ? { viewport: { width: 390, height: 844 }, hasTouch: true, isMobile: true } : {});
  const page = await context.newPage();
  await page.goto(`${app.url}/o/${uid(1)}/work`);
  await expect(page.getByLabel(/Call, reports/)).toBeVisible();
  return page;
}

const calls = (letter: string, n: number) => Array.from({ length: n }, (_, i) => `Q${i % 10}${letter}${"ABCDEFGHIJKLMNOPQRST"[i]}`);

const logged = async (app: App): Promise<string[]> => {
  const log = await (await fetch(`${app.url}/api/outings/${uid(1)}/log?most=500`)).json();
  return log.rows.map((r: { contact: { call: string; line: string } }) => r.contact.line);
};

/** Every line of the log through a slow link: its answer comes 0.7 s later. */
const slow = (page: Page) =>
  page.route("**/api/contacts/*/line", async (route) => {
    await new Promise((r) => setTimeout(r, 700));
    await route.continue().catch(() => undefined); // the page may be offline by then
  });

for (const phone of [false, true])
  test(`a fast operator types 15 contacts at once over a slow link that drops twice, ${phone ? "by thumb" : "by keyboard"}`, async ({
    browser,
    app,
  }) => {
    await outing(app);
    const page = await device(browser, app, phone);
    await slow(page);
    const line = page.getByLabel(/Call, reports/);
    const list = calls("XA", 15);
    for (const [i, call] of list.entries()) {
      if (i === 4 || i === 10) await page.context().setOffline(true);
      if (i === 7 || i === 12) await page.context().setOffline(false);
      const text = `${call} 59 57${i === 0 ? " 40m SSB" : ""}`;
      if (phone) {
        await line.fill(text);
        await page.getByRole("button", { name: "Log it" }).tap();
      } else {
        await line.pressSequentially(text);
        await line.press("Enter");
      }
      // The line is free at once, and has the focus: what is typed next is no shortcut.
      await expect(line).toHaveValue("");
      await expect(line).toBeFocused();
    }
    await expect.poll(async () => (await logged(app)).length, { timeout: 120_000 }).toBe(15);
    // All of them, and in the order in which they were typed: band and mode stay from one line to the next.
    expect((await logged(app)).map((l) => l.split(" ")[0]).reverse()).toEqual(list);
    await expect(page.locator("tr.pending")).toHaveCount(0);
    await expect(page).toHaveURL(/\/work$/);
    await page.context().close();
  });

test("two operators at one outing see each other's contacts as they are logged, and nothing is lost when one is killed", async ({
  browser,
  app,
}) => {
  await outing(app);
  const [one, two] = [await device(browser, app), await device(browser, app, true)];
  const lists = [calls("YA", 20), calls("ZB", 20)];
  for (let i = 0; i < 20; i++) {
    for (const [k, page] of [one, two].entries()) {
      const line = page.getByLabel(/Call, reports/);
      // The second one works a station that the first has worked already.
      const call = k === 1 && i === 10 ? lists[0]?.[2] : lists[k]?.[i];
      await line.fill(`${call} 59 57${i === 0 ? " 40m SSB" : ""}`);
      await line.press("Enter");
    }
    // Each sees the other's last contact without loading anything anew.
    await expect(one.getByRole("row", { name: new RegExp(lists[1]?.[i === 10 ? 9 : i] ?? "") })).toBeVisible();
    await expect(two.getByRole("row", { name: new RegExp(lists[0]?.[i] ?? "") })).toBeVisible();
  }
  const twice = lists[0]?.[2] ?? "";
  await two.context().close();
  await expect.poll(async () => (await logged(app)).length).toBe(40);
  await one.getByLabel("Find in the log").fill(twice);
  await expect(one.getByRole("row", { name: new RegExp(`${twice} duplicate`) })).toHaveCount(1);
  await one.context().close();
});
