import { readFileSync } from "node:fs";
import type { Page } from "@playwright/test";
import { App, expect, outing, put, test, uid } from "./app";

const contact = uid(40);

/** Saves the bundle of the only outing on the shelf to a file, and merges it into another notebook after looking at the preview. */
async function carry(page: Page, from: App, to: App, look?: (page: Page) => Promise<void>) {
  await page.goto(`${from.url}/`);
  const waiting = page.waitForEvent("download");
  await page.getByRole("link", { name: "Bundle", exact: true }).click();
  const file = await (await waiting).path();
  await page.goto(`${to.url}/`);
  const books = page.getByRole("region", { name: "Other notebooks" });
  await books.getByLabel("Merge a bundle").setInputFiles({ name: "spit.zip", mimeType: "application/zip", buffer: readFileSync(file) });
  if (look) await look(page);
  await books.getByRole("button", { name: "Merge it" }).click();
  await expect(page.getByRole("button", { name: "Undo" })).toBeVisible();
  await expect(books.getByRole("button", { name: "Merge it" })).toHaveCount(0);
}

const read = async (app: App, path: string) => (await fetch(`${app.url}${path}`)).json();

const logged = async (app: App) => (await read(app, `/api/outings/${uid(1)}/log`)).rows[0].contact;

/** A contact as it is corrected: with one more field changed, made from the version that is there. */
async function correct(app: App, change: Record<string, string>) {
  const { version, deleted: _, ...c } = await logged(app);
  await put(app, `/api/contacts/${contact}?version=${version}`, { ...c, ...change });
}

test("laptop and phone edit the same contact and the notes, and meet: both texts are there, and one decides", async ({
  page,
  app: laptop,
}) => {
  const phone = new App("serve");
  await phone.start();
  try {
    await outing(laptop);
    await put(laptop, `/api/contacts/${contact}`, {
      outing_id: uid(1),
      call: "Q2TAV",
      band: "40m",
      mode: "CW",
      at: "2026-05-16T12:00:00Z",
      seconds: false,
    });
    await put(phone, "/api/me", { ...(await read(phone, "/api/me")), call: "Q2REED" });
    await carry(page, laptop, phone);
    // Each goes on by itself.
    await correct(laptop, { comment: "loud, from the ridge", name: "Ada" });
    await correct(phone, { comment: "weak, from the beach" });
    await carry(page, laptop, phone, async (p) => {
      await expect(p.getByRole("region", { name: "Other notebooks" })).toContainText("changed by both in the same field");
    });
    const conflicts = page.getByRole("region", { name: "Conflicts" });
    await expect(conflicts).toContainText("loud, from the ridge");
    await expect(conflicts).toContainText("weak, from the beach");
    await conflicts.getByLabel("loud, from the ridge").check();
    await conflicts.getByRole("button", { name: "Keep what is chosen" }).click();
    await expect(conflicts).toHaveCount(0);
    await carry(page, phone, laptop);
    await expect(page.getByRole("region", { name: "Conflicts" })).toHaveCount(0);
    for (const app of [laptop, phone]) {
      const c = await logged(app);
      expect([c.comment, c.name]).toEqual(["loud, from the ridge", "Ada"]);
    }
  } finally {
    await phone.remove();
  }
});
