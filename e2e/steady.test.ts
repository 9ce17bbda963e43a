import { spawnSync } from "node:child_process";
import type { Page } from "@playwright/test";
import { expect, outing, put, test, uid } from "./app";

const shelf = async (page: Page, name: string) => {
  await page.getByRole("link", { name }).click();
};

test("two screens change one outing: nothing is overwritten, both are shown, and one chooses line by line", async ({ page, app }) => {
  await outing(app);
  const other = await page.context().newPage();
  await page.goto(`${app.url}/o/${uid(1)}/scout`);
  await expect(page.getByLabel("Name")).not.toHaveValue("");
  await page.getByLabel("Your site reference").fill("MI-0007");
  await other.goto(`${app.url}/o/${uid(1)}/scout`);
  await other.getByLabel("Your site reference").fill("MI-0009");
  await other.getByLabel("Site notes").fill("a bench of steel");
  await other.getByRole("button", { name: "Save outing" }).click();
  await expect(other.getByText("Saved.", { exact: true })).toBeVisible();
  // The first screen says so, and keeps what was typed there.
  await expect(page.getByText("This was changed on another device just now")).toBeVisible();
  await expect(page.getByLabel("Your site reference")).toHaveValue("MI-0007");
  await page.getByLabel("Leave by, UTC").fill("19:30");
  await page.getByRole("button", { name: "Save outing" }).click();
  const both = page.getByRole("region", { name: /choose what to keep/ });
  await expect(both.getByRole("row", { name: /your reference/ })).toContainText("MI-0009");
  // What only the other screen changed is taken from there without being asked for.
  await expect(both.getByRole("row", { name: /site notes/ }).getByLabel("a bench of steel")).toBeChecked();
  await both
    .getByRole("row", { name: /your reference/ })
    .getByLabel("MI-0009")
    .check();
  await both
    .getByRole("row", { name: /your reference/ })
    .getByLabel("MI-0007")
    .check();
  await both.getByRole("button", { name: "Save the selection" }).click();
  await expect(both).toBeHidden();
  const kept = async () => {
    const o = (await (await fetch(`${app.url}/api/outings/${uid(1)}`)).json()).outing;
    return [o.own_ref, o.notes, o.until, o.version];
  };
  await expect.poll(kept).toEqual(["MI-0007", "a bench of steel", "19:30", 3]);
  await expect(page.getByLabel("Site notes")).toHaveValue("a bench of steel");
});

test("a form that was typed into before another screen's change was read does not pass for one made after it", async ({ page, app }) => {
  await outing(app);
  await page.goto(`${app.url}/o/${uid(1)}/scout`);
  await page.getByLabel("Your site reference").fill("MI-0007");
  const o = (await (await fetch(`${app.url}/api/outings/${uid(1)}`)).json()).outing;
  await put(app, `/api/outings/${uid(1)}?version=1`, { ...o, notes: "from the other screen" });
  // The page reads what is there anew, as after every write; what was typed stays, and is still of the first version.
  await page.getByRole("link", { name: "Work" }).click();
  await page.getByLabel(/Call, reports/).fill("Q2TAV 59 57 40m SSB");
  await page.getByLabel(/Call, reports/).press("Enter");
  await expect(page.getByRole("row", { name: /Q2TAV/ })).toHaveCount(1);
  await page.getByRole("link", { name: "Scout" }).click();
  await expect(page.getByLabel("Your site reference")).toHaveValue("MI-0007");
  await page.getByRole("button", { name: "Save outing" }).click();
  await expect(page.getByRole("region", { name: /choose what to keep/ })).toContainText("from the other screen");
});

test("a passing fault and an answer that never comes are a missing link: kept, tried again, and logged once", async ({ page, app }) => {
  await outing(app);
  let faults = 2;
  await page.route("**/api/contacts/**", async (route) => {
    if (faults-- > 0)
      await route.fulfill({
        status: 500,
        contentType: "application/problem+json",
        body: '{"title":"Something went wrong here","status":500}',
      });
    else await route.continue();
  });
  await page.goto(`${app.url}/o/${uid(1)}/work`);
  await page.getByLabel(/Call, reports/).fill("Q2TAV 59 57 40m SSB");
  await page.getByLabel(/Call, reports/).press("Enter");
  await expect(page.getByText("1 not synced yet")).toBeVisible();
  await expect(page.getByRole("alert")).toHaveCount(0);
  await expect(page.getByRole("row", { name: /Q2TAV.*edit/i })).toHaveCount(1);
  await expect(page.getByText("saved", { exact: true })).toBeVisible();
  // An answer that never comes: the clock of the browser is wound forward instead of waited for.
  await page.clock.install();
  let hang = true;
  let hanging = 0;
  await page.unroute("**/api/contacts/**");
  await page.route("**/api/contacts/**", async (route) => {
    if (hang) hanging++;
    else await route.continue();
  });
  await page.goto(`${app.url}/o/${uid(1)}/work`);
  await page.getByLabel(/Call, reports/).fill("Q3TAV 59 57");
  await page.getByLabel(/Call, reports/).press("Enter");
  await expect(page.getByText("saving", { exact: true })).toBeVisible();
  await expect.poll(() => hanging).toBeGreaterThan(0);
  await page.clock.fastForward(26_000);
  await expect(page.getByText("1 not synced yet")).toBeVisible();
  hang = false;
  await page.clock.fastForward(70_000);
  await expect(page.getByRole("row", { name: /Q3TAV.*edit/i })).toHaveCount(1);
  await expect(page.getByText("saved", { exact: true })).toBeVisible();
  expect((await (await fetch(`${app.url}/api/outings/${uid(1)}/log`)).json()).total).toBe(2);
});

test("looking at an antenna in Sweep or Cut does not change which one contacts are logged to", async ({ page, demo }) => {
  await page.goto(demo.url);
  await shelf(page, "Gannet Spit");
  await page.getByRole("link", { name: "Work" }).click();
  const using = page.getByRole("button", { name: /^Antenna in use/ });
  await expect(using).toHaveAccessibleName(/A, Heron/);
  for (const stage of ["Sweep", "Cut"]) {
    await page.getByRole("link", { name: stage }).click();
    await page.getByRole("button", { name: /Stilt/ }).first().click();
    await expect(page.getByRole("button", { name: /Stilt/ }).first()).toHaveAttribute("aria-pressed", "true");
    await page.getByRole("link", { name: "Work" }).click();
    await expect(using).toHaveAccessibleName(/A, Heron/);
  }
  await page.getByLabel(/Call, reports/).fill("Q9ZZZ 559 579 20m CW");
  await page.getByLabel(/Call, reports/).press("Enter");
  await expect(page.getByRole("row", { name: /Q9ZZZ/ })).toContainText("A");
});

test("a record begins with the lengths that the cut list told to cut", async ({ page, app }) => {
  await put(app, `/api/outings/${uid(1)}`, { name: "Alder Common", date: "2026-05-16" });
  const plan = { family: "end-fed", variant: "sloper", frequency_hz: 0, wire: "pvc", texts: { for: "7.1", trim_percent: "5" }, unit: "m" };
  const d = await put(app, `/api/deployments/${uid(2)}`, { outing_id: uid(1), name: "Heron", plan });
  const radiator = d.planned.pieces.find((p: { name: string }) => p.name === "radiator");
  await page.goto(`${app.url}/o/${uid(1)}/raise`);
  const shown = await page.getByLabel("Radiator, m").inputValue();
  expect(Number.parseFloat(shown)).toBeCloseTo(radiator.electrical.m + radiator.trim.m, 2);
});

/** What stands in every control of a form: of a choice the words that are shown, not the value behind them. */
const shown = (page: Page) =>
  page
    .locator("form")
    .first()
    .evaluate((form) =>
      Object.fromEntries(
        Array.from(
          form.querySelectorAll<HTMLInputElement | HTMLSelectElement | HTMLTextAreaElement>("input[name], select[name], textarea[name]"),
        )
          // Dangers come as they are computed, and are ticked by hand alone.
          .filter((e) => e.offsetParent !== null && e.type !== "file" && e.name !== "confirmed")
          .map((e, i) => {
            const box = e as HTMLInputElement;
            if (box.type === "checkbox" || box.type === "radio") return [`${e.name} ${box.value} ${i}`, String(box.checked)];
            return [e.name, e instanceof HTMLSelectElement ? (e.selectedOptions[0]?.textContent ?? "") : e.value];
          }),
      ),
    );

test("what a form shows untouched is what is stored and shown again", async ({ page, app }) => {
  // Settings, of which only the call has no default.
  await page.goto(`${app.url}/settings`);
  await page.getByLabel("Your call").fill("Q2TAV");
  const settings = await shown(page);
  await page.getByRole("button", { name: "Save settings" }).click();
  await expect(page).toHaveURL(/scout\?new/);
  await page.goto(`${app.url}/settings`);
  await expect(page.getByLabel("Your call")).toHaveValue("Q2TAV");
  expect(await shown(page)).toEqual(settings);
  // A new outing.
  await page.goto(`${app.url}/o/${uid(1)}/scout?new`);
  await page.getByLabel("Name").fill("Gannet Spit");
  await expect(page.getByLabel("Ground")).toContainText("Salt");
  const scout = await shown(page);
  await page.getByRole("button", { name: "Save and plan an antenna" }).click();
  await expect(page).toHaveURL(/\/cut$/);
  const cut = page.getByRole("button", { name: "Save plan and continue to Raise" });
  await expect(cut).toBeVisible();
  // Shown the same way twice it could be wrong twice: what is stored is held against what was shown.
  const stored = (await (await fetch(`${app.url}/api/outings/${uid(1)}`)).json()).outing;
  const tables = await (await fetch(`${app.url}/api/reference`)).json();
  const rules = (await (await fetch(`${app.url}/api/schemes`)).json()).map((r: { scheme: { id: string; name: string } }) => r.scheme);
  const named = (list: { id: string; name: string }[], id: string) => list.find((x) => x.id === id)?.name;
  expect([scout.ground, scout.scheme, scout.date]).toEqual([
    named(tables.grounds, stored.ground),
    named(rules, stored.scheme),
    stored.date,
  ]);
  await page.goto(`${app.url}/o/${uid(1)}/scout`);
  await expect(page.getByLabel("Name")).toHaveValue("Gannet Spit");
  expect(await shown(page)).toEqual(scout);
  // Its plan.
  await page.goto(`${app.url}/o/${uid(1)}/cut`);
  await page.getByLabel("Antenna name").fill("Heron");
  await expect(page.getByRole("row", { name: /1 radiator/ })).toBeVisible();
  const planned = await shown(page);
  await page.getByRole("button", { name: "Save plan and continue to Raise" }).click();
  await expect(page).toHaveURL(/\/raise$/);
  await expect(page.getByRole("button", { name: "Save as revision 1" })).toBeVisible();
  const fresh = await shown(page);
  await page.goto(`${app.url}/o/${uid(1)}/cut`);
  await expect(page.getByLabel("Antenna name")).toHaveValue("Heron");
  await expect(page.getByRole("row", { name: /1 radiator/ })).toBeVisible();
  const again = await shown(page);
  for (const [name, text] of Object.entries(planned)) if (text !== "") expect([name, again[name]]).toEqual([name, text]);
  // What was put up, as it came from the plan.
  await page.goto(`${app.url}/o/${uid(1)}/raise`);
  await expect(page.getByRole("button", { name: "Save as revision 1" })).toBeEnabled();
  await page.getByRole("button", { name: "Save as revision 1" }).click();
  await expect(page).toHaveURL(/\/sweep$/);
  await page.goto(`${app.url}/o/${uid(1)}/raise`);
  await expect(page.getByRole("button", { name: "Save as revision 2" })).toBeVisible();
  expect(await shown(page)).toEqual(fresh);
  // A thing of the bag of every kind.
  const kinds = (await (await fetch(`${app.url}/api/reference`)).json()).kinds as { id: string }[];
  await page.goto(`${app.url}/bag`);
  for (const { id } of kinds) {
    await page.getByRole("button", { name: "Add item" }).click();
    await page.getByLabel("What is it").selectOption(id);
    await page.getByLabel("Name").fill(`the ${id}`);
    const before = await shown(page);
    await page.getByRole("button", { name: "Save item" }).click();
    const kept = page.getByRole("button", { name: new RegExp(`the ${id}`) });
    const missing = page.getByText(/this is missing/).first();
    await expect(kept.or(missing).first()).toBeVisible();
    if (await missing.isVisible()) {
      // It has a field that cannot be left empty, which is said at its place.
      await page.getByRole("button", { name: "Close" }).click();
      continue;
    }
    await kept.click();
    await expect(page.getByLabel("Name")).toHaveValue(`the ${id}`);
    const after = await shown(page);
    for (const [name, text] of Object.entries(after)) expect([id, name, text]).toEqual([id, name, before[name]]);
    await page.getByRole("button", { name: "Close" }).click();
  }
  // A contact, opened for correction and kept as it stands.
  await page.goto(`${app.url}/o/${uid(1)}/work`);
  await page.getByLabel(/Call, reports/).fill("Q3TAV 559 579 7.032 CW 5W ^IN36ab =MI-0003 ; first");
  await page.getByLabel(/Call, reports/).press("Enter");
  await page.getByRole("button", { name: /^Edit Q3TAV/ }).click();
  const form = page.getByRole("form", { name: "Edit Q3TAV" });
  const was = await (await fetch(`${app.url}/api/outings/${uid(1)}/log`)).json();
  await form.getByRole("button", { name: "Save contact" }).click();
  await expect(form).toBeHidden();
  const now = await (await fetch(`${app.url}/api/outings/${uid(1)}/log`)).json();
  expect(now.rows[0].contact).toEqual(was.rows[0].contact);
});

test("a long log is searched, and scrolled to its first contact", async ({ page, app }) => {
  await outing(app);
  const two = (n: number) => String(n).padStart(2, "0");
  let adi = "<EOH>";
  for (let i = 0; i < 1300; i++) {
    const call = i === 0 ? "Q1FIRST" : `Q${i % 10}A${String.fromCharCode(65 + (i % 26))}`;
    const time = `${two(Math.floor(i / 60))}${two(i % 60)}00`;
    adi += `<CALL:${call.length}>${call}<QSO_DATE:8>20260510<TIME_ON:6>${time}<BAND:3>40m<MODE:2>CW<EOR>`;
  }
  await put(app, `/api/imports/${uid(9)}`, { name: "log.adi", content: Buffer.from(adi).toString("base64"), outing_id: uid(1) });
  await page.goto(`${app.url}/o/${uid(1)}/work`);
  await expect(page.getByText("14 of 1300")).toBeVisible();
  await page.getByLabel("Find in the log").fill("q1fir");
  await expect(page.getByRole("row", { name: /Q1FIRST/ })).toHaveCount(1);
  await page.getByLabel("Find in the log").fill("nobody");
  await expect(page.getByText("None of 1300 holds that.")).toBeVisible();
  await page.getByLabel("Find in the log").fill("");
  await page.getByRole("button", { name: "Older contacts" }).click();
  for (let i = 0; i < 30 && (await page.getByRole("row", { name: /Q1FIRST/ }).count()) === 0; i++) {
    await page.mouse.wheel(0, 20_000);
    await page.waitForTimeout(100);
  }
  await expect(page.getByRole("row", { name: /Q1FIRST/ })).toHaveCount(1);
  await expect(page.getByRole("button", { name: "Older contacts" })).toBeHidden();
});

test("a device that is not the machine itself is let in by the passphrase, listed, and taken out", async ({ page, app, browser }) => {
  await outing(app);
  await app.stop();
  const set = spawnSync("../bin/reed", ["passphrase", "--data", app.data], { input: "reeds by the quay\n" });
  expect(set.status).toBe(0);
  await app.start();
  // What comes through a proxy is not the machine itself.
  const away = await browser.newContext({ extraHTTPHeaders: { "X-Forwarded-For": "192.0.2.9" } });
  const phone = await away.newPage();
  await phone.goto(`${app.url}/o/${uid(1)}/work`);
  await expect(phone.getByRole("heading", { name: "This notebook does not know this device yet." })).toBeVisible();
  await phone.getByLabel("Pairing word or passphrase").fill("reeds by the key");
  await phone.getByRole("button", { name: "Pair this device" }).click();
  await expect(phone.getByRole("alert")).toContainText("neither the pairing word nor the passphrase");
  await phone.getByLabel("Pairing word or passphrase").fill("reeds by the quay");
  await phone.getByLabel("Device name").fill("wet hand");
  // After a wrong one the next is not looked at at once.
  const letIn = phone.getByRole("button", { name: "Pair this device" });
  await expect(async () => {
    if (await letIn.isVisible()) await letIn.click();
    await expect(phone.getByText("No contacts yet", { exact: false })).toBeVisible({ timeout: 10_000 });
  }).toPass();
  await phone.getByLabel(/Call, reports/).fill("Q2TAV 59 57 40m SSB");
  await phone.getByLabel(/Call, reports/).press("Enter");
  await expect(phone.getByRole("row", { name: /Q2TAV/ })).toHaveCount(1);
  await page.goto(`${app.url}/settings`);
  const row = page.getByRole("row", { name: /wet hand/ });
  await row.getByRole("button", { name: "Delete" }).click();
  await expect(row).toHaveCount(0);
  // The page reads anew what changed, and the line while it is typed: the gate may be there before the line is entered.
  const line = phone.getByLabel(/Call, reports/);
  await line.fill("Q3TAV 59 57", { timeout: 10_000 }).catch(() => undefined);
  await line.press("Enter", { timeout: 10_000 }).catch(() => undefined);
  await expect(phone.getByRole("heading", { name: "This notebook does not know this device yet." })).toBeVisible();
  await away.close();
});
