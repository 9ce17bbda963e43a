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

/** The bundle of an outing, as a file to choose. */
const bundleOf = async (app: App) => ({
  name: "spit.zip",
  mimeType: "application/zip",
  buffer: Buffer.from(await (await fetch(`${app.url}/api/outings/${uid(1)}/bundle.zip`)).arrayBuffer()),
});

const read = async (app: App, path: string) => (await fetch(`${app.url}${path}`)).json();

const logged = async (app: App) => (await read(app, `/api/outings/${uid(1)}/log`)).rows[0].contact;

/** A contact as it is corrected: with one more field changed, made from the version that is there. */
async function correct(app: App, change: Record<string, string>) {
  const { version, deleted: _, ...c } = await logged(app);
  await put(app, `/api/contacts/${contact}?version=${version}`, { ...c, ...change });
}

/** The outing's notes are written anew. */
async function note(app: App, notes: string) {
  const { version, id: _, created_at: __, deleted: ___, ...o } = (await read(app, `/api/outings/${uid(1)}`)).outing;
  await put(app, `/api/outings/${uid(1)}?version=${version}`, { ...o, notes });
}

/** The antenna is lengthened, as a revision. */
async function revise(app: App, id: string, metres: string) {
  const { revisions } = await read(app, `/api/deployments/${uid(2)}`);
  const { built } = revisions[0].revision ?? revisions[0];
  await put(app, `/api/revisions/${id}`, {
    deployment_id: uid(2),
    reason: "lengthened",
    built: { ...built, radiator: { typed: metres, unit: "m" } },
  });
}

test("laptop and phone edit a contact, the notes and an antenna, and meet: all texts are there, and one decides", async ({
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
    await note(laptop, "gusts on the ridge");
    await revise(laptop, uid(91), "20.8 m");
    await correct(phone, { comment: "weak, from the beach" });
    await note(phone, "calm at the beach");
    await revise(phone, uid(92), "20.2 m");
    await carry(page, laptop, phone, async (p) => {
      await expect(p.getByRole("region", { name: "Other notebooks" })).toContainText("changed by both in the same field");
    });
    const conflicts = page.getByRole("region", { name: "Conflicts" });
    for (const text of ["loud, from the ridge", "weak, from the beach", "gusts on the ridge", "calm at the beach"])
      await expect(conflicts).toContainText(text);
    for (const kept of ["loud, from the ridge", "gusts on the ridge"]) {
      const one = conflicts.locator(".note").filter({ hasText: kept });
      await one.getByLabel(kept).check();
      await one.getByRole("button", { name: "Save the selection" }).click();
      await expect(one).toHaveCount(0);
    }
    await expect(conflicts).toHaveCount(0);
    await carry(page, phone, laptop);
    await expect(page.getByRole("region", { name: "Conflicts" })).toHaveCount(0);
    for (const app of [laptop, phone]) {
      const c = await logged(app);
      expect([c.comment, c.name]).toEqual(["loud, from the ridge", "Ada"]);
      expect((await read(app, `/api/outings/${uid(1)}`)).outing.notes).toBe("gusts on the ridge");
      const { revisions } = await read(app, `/api/deployments/${uid(2)}`);
      expect(JSON.stringify(revisions)).toContain("20.8 m");
      expect(JSON.stringify(revisions)).toContain("20.2 m");
    }
    // What was not chosen is found among the earlier versions in both, and can be brought back.
    for (const app of [phone, laptop]) {
      await page.goto(`${app.url}/o/${uid(1)}/scout`);
      await page.locator("summary", { hasText: "Earlier versions" }).click();
      await expect(page.getByRole("list", { name: "Earlier versions" })).toContainText("calm at the beach");
      await page.goto(`${app.url}/o/${uid(1)}/work`);
      await page.getByRole("button", { name: "Edit Q2TAV at 12:00" }).click();
      await page.locator("summary", { hasText: "Earlier versions" }).click();
    }
    const weak = page.getByRole("list", { name: "Earlier versions" }).getByRole("listitem").filter({ hasText: "weak, from the beach" });
    await weak.first().getByRole("button", { name: "Bring back" }).click();
    await expect(page.getByRole("cell", { name: "weak, from the beach" })).toBeVisible();
    await page.getByRole("button", { name: "Undo" }).click();
    await expect(page.getByRole("cell", { name: "loud, from the ridge" })).toBeVisible();
  } finally {
    await phone.remove();
  }
});

test("a bundle that is chosen without a link is kept, and merged when the link is back", async ({ page, app: laptop }) => {
  const phone = new App("serve");
  await phone.start();
  try {
    await outing(laptop);
    await put(phone, "/api/me", { ...(await read(phone, "/api/me")), call: "Q2REED" });
    await page.goto(`${phone.url}/`);
    const books = page.getByRole("region", { name: "Other notebooks" });
    await expect(books).toBeVisible();
    await page.context().setOffline(true);
    await books.getByLabel("Merge a bundle").setInputFiles(await bundleOf(laptop));
    await books.getByRole("button", { name: "Merge when connected" }).click();
    await expect(books).toContainText("saved on this device");
    await page.context().setOffline(false);
    await expect(page.getByRole("link", { name: "Gannet Spit" })).toBeVisible();
    await expect(page.getByText(/not synced yet/)).toHaveCount(0);
  } finally {
    await phone.remove();
  }
});
