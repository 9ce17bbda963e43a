import { execFileSync } from "node:child_process";
import { mkdirSync, mkdtempSync, readFileSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { chromium } from "@playwright/test";
import { App, expect, outing, test, uid } from "./app";
import { browser } from "./playwright.config";

test("a phone that trusts the notebook's authority reloads without a link, keeps its lines, and sends each once", async () => {
  const app = new App("serve");
  const home = mkdtempSync(join(tmpdir(), "reed-phone-"));
  try {
    await app.start();
    await outing(app);
    await app.stop();
    await app.start("--lan");
    expect(app.url).toContain("https://");
    // The phone gets the authority from the notebook, before it trusts it.
    const stranger = await chromium.launch(browser);
    const first = await (await stranger.newContext({ ignoreHTTPSErrors: true })).newPage();
    await first.goto(`${app.url}/`);
    const root = join(home, "root.crt");
    const waiting = first.waitForEvent("download");
    await first.evaluate(() => location.assign("/notebook-root.crt"));
    await (await waiting).saveAs(root);
    expect(readFileSync(root, "utf8")).toContain("BEGIN CERTIFICATE");
    await stranger.close();
    const store = join(home, ".pki", "nssdb");
    mkdirSync(store, { recursive: true });
    execFileSync("certutil", ["-d", `sql:${store}`, "-N", "--empty-password"]);
    execFileSync("certutil", ["-d", `sql:${store}`, "-A", "-t", "C,,", "-n", "notebook", "-i", root]);

    const phone = await chromium.launchPersistentContext(join(home, "profile"), {
      ...browser,
      serviceWorkers: "allow",
      viewport: { width: 390, height: 844 },
      env: { ...process.env, HOME: home } as Record<string, string>,
    });
    const page = phone.pages()[0] ?? (await phone.newPage());
    await page.goto(`${app.url}/`);
    await page.evaluate(async () => void (await navigator.serviceWorker.ready));
    await page.goto(`${app.url}/o/${uid(1)}/work`);
    await expect(page.getByText("No contacts yet", { exact: false })).toBeVisible();
    await app.crash();
    await page.reload();
    const line = page.getByLabel(/Call, reports/);
    for (const text of ["Q2TAV 59 57 40m SSB", "Q3TAV 59 55 40m SSB"]) {
      await line.fill(text);
      await line.press("Enter");
      await expect(page.getByRole("row", { name: new RegExp(`${text.split(" ")[0]} not synced`) })).toBeVisible();
    }
    await page.reload();
    await expect(page.getByRole("row", { name: /Q3TAV not synced/ })).toBeVisible();
    await app.start("--lan");
    await expect(page.getByRole("row", { name: /Q2TAV/ })).toHaveCount(1);
    await expect(page.getByText("not synced")).toHaveCount(0);
    const log = await page.evaluate(async (path) => (await fetch(path)).json(), `/api/outings/${uid(1)}/log`);
    expect(log.rows.map((r: { contact: { call: string } }) => r.contact.call).toSorted()).toEqual(["Q2TAV", "Q3TAV"]);
    await phone.close();
  } finally {
    await app.remove();
    rmSync(home, { recursive: true, force: true });
  }
});
