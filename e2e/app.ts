import { type ChildProcess, spawn } from "node:child_process";
import { cpSync, mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { test as base, expect, type Locator, type Page } from "@playwright/test";
import { getDocument } from "pdfjs-dist/legacy/build/pdf.mjs";

/** The real program on a fresh database, with a way to stop it and start it again at the same address. */
export class App {
  url = "";
  private child?: ChildProcess;
  readonly data = mkdtempSync(join(tmpdir(), "reed-"));

  constructor(private readonly command: "serve" | "demo") {}

  /** Starts it, with arguments beyond the folder and the address. */
  async start(...more: string[]) {
    const listen = this.url ? new URL(this.url).host : "127.0.0.1:0";
    const args = [this.command, "--data", this.data, "--listen", listen, ...more];
    const child = spawn("../bin/reed", args, { stdio: ["ignore", "pipe", "inherit"] });
    this.child = child;
    this.url = await new Promise<string>((resolve, reject) => {
      child.on("exit", (code) => reject(new Error(`the program ended with ${code}`)));
      child.stdout?.on("data", (d) => {
        const m = /https?:\/\/\S+/.exec(String(d));
        if (m) resolve(m[0]);
      });
    });
  }

  async stop() {
    const child = this.child;
    if (!child || child.exitCode !== null) return;
    const ended = new Promise((r) => child.on("exit", r));
    child.kill();
    await ended;
  }

  /** The program ends as if its power had failed. */
  async crash() {
    const child = this.child;
    if (!child || child.exitCode !== null) return;
    const ended = new Promise((r) => child.on("exit", r));
    child.kill("SIGKILL");
    await ended;
  }

  async remove() {
    await this.stop();
    rmSync(this.data, { recursive: true, force: true });
  }
}

/** Where the demo notebook lies that prepare.ts makes once, and the address of the program that shows it to all who only read. */
export const prepared = { data: "REED_DEMO_DATA", url: "REED_DEMO_URL" };

export const test = base.extend<{ app: App; demo: App; shared: { url: string } }>({
  // biome-ignore lint/correctness/noEmptyPattern: the fixture needs no other
  app: async ({}, use) => {
    const a = new App("serve");
    await a.start();
    await use(a);
    await a.remove();
  },
  // One demo notebook for all journeys that change nothing: what one has computed the next need not.
  // biome-ignore lint/correctness/noEmptyPattern: the fixture needs no other
  shared: async ({}, use) => use({ url: process.env[prepared.url] ?? "" }),
  // biome-ignore lint/correctness/noEmptyPattern: the fixture needs no other
  demo: async ({}, use) => {
    const a = new App("demo");
    cpSync(process.env[prepared.data] ?? "", a.data, { recursive: true });
    await a.start();
    await use(a);
    await a.remove();
  },
});

export { expect };

/** A one-port file of a series resonator: what an analyser would write at a known antenna. */
export function resonator(f0: number, r: number, q: number, from: number, to: number, step: number): string {
  const l = (q * r) / (2 * Math.PI * f0);
  const c = 1 / ((2 * Math.PI * f0) ** 2 * l);
  let out = "# HZ Z RI R 50\n";
  for (let f = from; f <= to; f += step) {
    const x = 2 * Math.PI * f * l - 1 / (2 * Math.PI * f * c);
    out += `${f} ${(r / 50).toFixed(8)} ${(x / 50).toFixed(8)}\n`;
  }
  return out;
}

/** Picks one of several. A page that is still filling may move it away under the pointer: then it is picked again. */
export async function pick(among: Page | Locator, name: string | RegExp) {
  const radio = among.getByRole("radio", typeof name === "string" ? { name, exact: true } : { name });
  await expect(() => radio.check({ force: true, timeout: 10_000 })).toPass({ timeout: 120_000 });
}

/** Opens what is folded behind a line. */
export async function unfold(page: Page, name = "More dimensions") {
  const fold = page.locator("details").filter({ has: page.locator("summary", { hasText: name }) });
  await expect(async () => {
    const open = await fold.first().evaluate((e) => (e as HTMLDetailsElement).open);
    if (!open) await fold.first().locator("summary").first().click({ timeout: 10_000 });
    await expect(fold.first()).toHaveAttribute("open", "", { timeout: 5000 });
  }).toPass({ timeout: 120_000 });
}

const nameOfFocus = (page: Page) =>
  page.evaluate(() => {
    const e = document.activeElement as HTMLElement | null;
    if (!e || e === document.body) return "";
    const by = e.getAttribute("aria-labelledby");
    const label = (e as HTMLInputElement).labels?.[0]?.textContent;
    return (e.getAttribute("aria-label") ?? (by && document.getElementById(by)?.textContent) ?? label ?? e.textContent ?? "").trim();
  });

/** Go by Tab alone to what has this name. */
export async function tabTo(page: Page, name: string | RegExp) {
  const seen: string[] = [];
  for (let i = 0; i < 160; i++) {
    const at = await nameOfFocus(page);
    if (typeof name === "string" ? at === name : name.test(at)) return;
    seen.push(at);
    await page.keyboard.press("Tab");
  }
  throw new Error(`${name} was not reached by Tab; passed ${[...new Set(seen)].join(" | ")}`);
}

/** Fill a field by keyboard alone. */
export async function type(page: Page, name: string | RegExp, text: string) {
  await tabTo(page, name);
  await page.keyboard.press("ControlOrMeta+a");
  await page.keyboard.type(text);
}

export async function press(page: Page, name: string | RegExp) {
  await tabTo(page, name);
  await page.keyboard.press("Enter");
}

/** A small set-up through the interface's own door, for journeys that begin later. */
export async function put(app: App, path: string, body: unknown) {
  const r = await fetch(app.url + path, { method: "PUT", headers: { "Content-Type": "application/json" }, body: JSON.stringify(body) });
  if (!r.ok) throw new Error(`${path}: ${await r.text()}`);
  return r.json();
}

export const uid = (n: number) => `00000000-0000-7000-8000-${String(n).padStart(12, "0")}`;

export async function outing(app: App) {
  const me = await (await fetch(`${app.url}/api/me`)).json();
  await put(app, "/api/me", { ...me, call: "Q1REED" });
  await put(app, `/api/outings/${uid(1)}`, { name: "Gannet Spit", date: "2026-05-16", place: "IN36", ground: "sea", scheme: "ten-a-day" });
  await put(app, `/api/deployments/${uid(2)}`, {
    outing_id: uid(1),
    name: "Heron",
    plan: { family: "end-fed", variant: "sloper", frequency_hz: 7.1e6 },
  });
  const built = {
    family: "end-fed",
    variant: "sloper",
    frequency_hz: 7.1e6,
    radiator: { typed: "20.5 m", unit: "m" },
    feed_height: { typed: "1 m", unit: "m" },
    far_height: { typed: "6 m", unit: "m" },
    primary_turns: 2,
    secondary_turns: 14,
  };
  await put(app, `/api/revisions/${uid(3)}`, { deployment_id: uid(2), reason: "as put up", built });
}

/** What stands on the sheets that the browser would print. */
export async function printed(page: Page): Promise<string> {
  return (await printedPages(page)).join(" ");
}

/** The same, sheet by sheet. */
export async function printedPages(page: Page): Promise<string[]> {
  const doc = await getDocument({ data: new Uint8Array(await page.pdf({ format: "A4", preferCSSPageSize: true })), verbosity: 0 }).promise;
  const pages: string[] = [];
  for (let i = 1; i <= doc.numPages; i++) {
    const content = await (await doc.getPage(i)).getTextContent();
    const text = content.items.map((x) => ("str" in x ? x.str : "")).join(" ");
    pages.push(text.replace(/\s+/g, " "));
  }
  return pages;
}
