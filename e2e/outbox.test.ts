import { execFileSync } from "node:child_process";
import { mkdtempSync, readFileSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { expect, type Page, type Route, test } from "@playwright/test";

/** The outbox alone, in a page of its own, before a server that fails in every way. No program runs. */
const origin = "http://127.0.0.1:9";

type Send = (
  method: string,
  path: string,
  at: Record<string, string>,
  body: unknown,
  label: string,
  version?: number,
  keepRefused?: () => boolean,
) => Promise<unknown>;
interface Outbox {
  send: Send;
  startOutbox: () => void;
  again: (w: unknown, body: unknown) => Promise<void>;
}
declare const outbox: Outbox;

let script = "";
test.beforeAll(() => {
  const dir = mkdtempSync(join(tmpdir(), "outbox-"));
  const out = join(dir, "outbox.js");
  execFileSync(
    "node_modules/.bin/rolldown",
    ["src/api/outbox.ts", "--file", out, "--format", "iife", "--name", "outbox", "--transform.define", "process.env.NODE_ENV:'production'"],
    { cwd: "../web", stdio: "pipe" },
  );
  script = readFileSync(out, "utf8");
  rmSync(dir, { recursive: true });
});

type Mood = "ok" | "lost" | "refuse" | "conflict" | "login page" | "null" | "nothing" | "broken" | "locked" | "answer lost";

/** A server that stores documents by version, in the mood that it is given. */
class Server {
  mood: (path: string) => Mood = () => "ok";
  /** The paths and bodies that it was asked to store, in the order in which they came. */
  asked: { path: string; body: { text?: string }; version: number }[] = [];
  stored = new Map<string, { version: number; body: { text?: string } }>();
  /** How long an answer takes, in milliseconds. */
  delay: (path: string) => number = () => 0;

  async answer(route: Route) {
    const request = route.request();
    const url = new URL(request.url());
    if (url.pathname === "/page") return route.fulfill({ contentType: "text/html", body: "<title>outbox</title>" });
    const body = request.postDataJSON();
    const version = Number(url.searchParams.get("version") ?? 0);
    this.asked.push({ path: url.pathname, body, version });
    const mood = this.mood(url.pathname);
    await new Promise((r) => setTimeout(r, this.delay(url.pathname)));
    const problem = (status: number, title: string, more = {}) =>
      route.fulfill({ status, contentType: "application/problem+json", body: JSON.stringify({ status, title, ...more }) });
    if (mood === "lost") return route.abort();
    if (mood === "refuse") return problem(422, "This cannot be stored");
    if (mood === "login page") return route.fulfill({ contentType: "text/html", body: "<h1>Welcome to our network</h1>" });
    if (mood === "null") return route.fulfill({ contentType: "application/json", body: "null" });
    if (mood === "nothing") return route.fulfill({ status: 204 });
    if (mood === "broken") return problem(500, "Something went wrong");
    if (mood === "locked") return problem(401, "Not let in");
    const there = this.stored.get(url.pathname) ?? { version: 0, body: {} };
    if (there.version !== version && JSON.stringify(there.body) !== JSON.stringify(body))
      return problem(409, "Something else was stored", { conflict: { version: there.version, now: there.body } });
    this.stored.set(url.pathname, { version: version + 1, body });
    if (mood === "answer lost") return route.abort();
    const id = decodeURIComponent(url.pathname.split("/")[3] ?? "");
    return route.fulfill({ contentType: "application/json", body: JSON.stringify({ id, version: version + 1 }) });
  }

  /** Opens a page that has the outbox, and this server behind it. */
  async open(page: Page) {
    await page.route(`${origin}/**`, (r) => this.answer(r));
    await this.load(page);
  }

  async load(page: Page) {
    await page.goto(`${origin}/page`);
    await page.addScriptTag({ content: script });
    await page.evaluate(() => outbox.startOutbox());
  }
}

const id = (n: number) => `00000000-0000-7000-8000-${String(n).padStart(12, "0")}`;
const line = (n: number) => `/api/contacts/${id(n)}/line`;

/** Sends writes without waiting in between, and gives what became of each: an answer, "kept", or why it was refused. */
const sendAll = (page: Page, writes: { path: string; text: string; version?: number }[]) =>
  page.evaluate(
    (list) =>
      Promise.all(
        list.map((w) =>
          outbox.send("put", w.path, {}, { text: w.text }, w.text, w.version).then(
            (a) => (a === undefined ? "kept" : "stored"),
            (e) => String(e.message ?? e),
          ),
        ),
      ),
    writes,
  );

/** What is in the box: the text of each write, and why it was refused. */
const boxed = (page: Page) =>
  page.evaluate(
    () =>
      new Promise<[string, string][]>((resolve, reject) => {
        const open = indexedDB.open("outbox");
        open.onerror = () => reject(open.error);
        open.onsuccess = () => {
          const all = open.result.transaction("waiting").objectStore("waiting").getAll();
          all.onsuccess = () => {
            open.result.close();
            const list = all.result.sort((a, b) => a.order - b.order);
            resolve(list.map((w) => [w.body.text, w.refused ?? ""]));
          };
        };
      }),
  );

const texts = (s: Server) => s.asked.map((a) => a.body.text);

test("lines are stored in their order when the first one meets a lost link", async ({ page }) => {
  const server = new Server();
  await server.open(page);
  let lost = 0;
  server.mood = () => (lost++ < 1 ? "lost" : "ok");
  const writes = Array.from({ length: 8 }, (_, i) => ({ path: line(i), text: `line ${i}`, version: 0 }));
  expect(await sendAll(page, writes)).toEqual(Array(8).fill("kept"));
  await expect.poll(() => boxed(page)).toEqual([]);
  expect(texts(server).slice(1)).toEqual(writes.map((w) => w.text));
});

test("a link that comes and goes at random loses nothing and changes no order", async ({ page }) => {
  const server = new Server();
  await server.open(page);
  let seed = 7;
  const random = () => {
    seed = (seed * 16807) % 2147483647;
    return seed / 2147483647;
  };
  const moods: Mood[] = ["ok", "ok", "lost", "answer lost", "login page", "null", "nothing", "broken", "locked"];
  let calm = false;
  server.mood = () => (calm ? "ok" : (moods[Math.floor(random() * moods.length)] as Mood));
  server.delay = () => random() * 20;
  for (let i = 0; i < 5; i++)
    await sendAll(
      page,
      Array.from({ length: 6 }, (_, k) => ({ path: line(6 * i + k), text: `line ${6 * i + k}`, version: 0 })),
    );
  calm = true;
  await page.evaluate(() => dispatchEvent(new Event("online")));
  await expect.poll(() => boxed(page), { timeout: 30_000 }).toEqual([]);
  expect(server.stored.size).toBe(30);
  expect([...server.stored.values()].map((v) => v.body.text)).toEqual(Array.from({ length: 30 }, (_, i) => `line ${i}`));
});

for (const mood of ["login page", "null", "nothing", "broken", "locked", "lost"] as Mood[])
  test(`a write stays where the answer is: ${mood}`, async ({ page }) => {
    const server = new Server();
    await server.open(page);
    server.mood = () => mood;
    expect(await sendAll(page, [{ path: line(1), text: "mine", version: 0 }])).toEqual(["kept"]);
    expect(await boxed(page)).toEqual([["mine", ""]]);
  });

test("a refused write is told to its form and holds up none behind it", async ({ page }) => {
  const server = new Server();
  await server.open(page);
  server.mood = (path) => (path === line(1) ? "refuse" : "ok");
  const done = await sendAll(page, [
    { path: line(0), text: "first", version: 0 },
    { path: line(1), text: "wrong", version: 0 },
    { path: line(2), text: "third", version: 0 },
  ]);
  expect(done).toEqual(["stored", "This cannot be stored", "stored"]);
  expect(await boxed(page)).toEqual([]);
  expect(texts(server)).toEqual(["first", "wrong", "third"]);
});

test("a write that is refused after it waited stays, with the reason, and can be sent again corrected", async ({ page }) => {
  const server = new Server();
  await server.open(page);
  server.mood = () => "lost";
  await sendAll(page, [{ path: line(1), text: "wrong", version: 0 }]);
  server.mood = () => "refuse";
  await expect.poll(() => boxed(page)).toEqual([["wrong", "This cannot be stored"]]);
  server.mood = () => "ok";
  await page.evaluate(async () => {
    const open = indexedDB.open("outbox");
    await new Promise((r) => (open.onsuccess = r));
    const all = open.result.transaction("waiting").objectStore("waiting").getAll();
    await new Promise((r) => (all.onsuccess = r));
    await outbox.again(all.result[0], { text: "right" });
  });
  expect(await boxed(page)).toEqual([]);
  expect(server.stored.get(line(1))?.body.text).toBe("right");
});

test("a conflict keeps the write beside what is there", async ({ page }) => {
  const server = new Server();
  await server.open(page);
  const path = `/api/notes/${id(5)}`;
  server.stored.set(path, { version: 4, body: { text: "theirs" } });
  expect(await sendAll(page, [{ path, text: "mine", version: 3 }])).toEqual(["Something else was stored"]);
  expect(await boxed(page)).toEqual([["mine", "Something else was stored"]]);
  expect(server.stored.get(path)?.body.text).toBe("theirs");
});

test("two edits of one thing, the second made before the first is answered, follow one another", async ({ page }) => {
  const server = new Server();
  await server.open(page);
  server.delay = () => 200;
  const path = `/api/notes/${id(6)}`;
  server.stored.set(path, { version: 3, body: { text: "before" } });
  expect(
    await sendAll(page, [
      { path, text: "one", version: 3 },
      { path, text: "two", version: 3 },
    ]),
  ).toEqual(["stored", "stored"]);
  expect(server.stored.get(path)).toEqual({ version: 5, body: { text: "two" } });
  // One made from what the page read long ago follows as well.
  expect(await sendAll(page, [{ path, text: "three", version: 3 }])).toEqual(["stored"]);
  expect(server.stored.get(path)).toEqual({ version: 6, body: { text: "three" } });
});

test("writes made without a link are sent in their order after the page was closed, and a clock that jumps back changes nothing", async ({
  page,
}) => {
  const server = new Server();
  await server.open(page);
  server.mood = () => "lost";
  await sendAll(page, [{ path: line(1), text: "before the jump", version: 0 }]);
  await page.evaluate(() => {
    const real = Date.now;
    const Before = Date;
    // biome-ignore lint/suspicious/noGlobalAssign: the page's clock is set back by an hour
    Date = class extends Before {
      constructor() {
        super(real() - 3_600_000);
      }
      static now = () => real() - 3_600_000;
    } as never;
  });
  await sendAll(page, [{ path: line(2), text: "after the jump", version: 0 }]);
  server.asked = [];
  server.mood = () => "ok";
  await server.load(page);
  await expect.poll(() => boxed(page)).toEqual([]);
  expect(texts(server)).toEqual(["before the jump", "after the jump"]);
});

test("a photo waits for its outing, and nothing waits for a photo", async ({ page }) => {
  const server = new Server();
  await server.open(page);
  server.delay = (path) => (path.startsWith("/api/photos") ? 600 : 20);
  await sendAll(page, [
    { path: `/api/photos/${id(3)}`, text: "photo", version: 0 },
    { path: `/api/outings/${id(4)}`, text: "outing", version: 0 },
    { path: line(1), text: "line", version: 0 },
  ]);
  expect(texts(server)).toEqual(["outing", "line", "photo"]);
});

test("two pages of one browser send each write once", async ({ page, context }) => {
  const server = new Server();
  server.delay = () => 30;
  const second = await context.newPage();
  await Promise.all([server.open(page), server.open(second)]);
  const writes = (from: number) => Array.from({ length: 6 }, (_, i) => ({ path: line(from + i), text: `line ${from + i}`, version: 0 }));
  const [a, b] = await Promise.all([sendAll(page, writes(0)), sendAll(second, writes(100))]);
  expect([...a, ...b]).toEqual(Array(12).fill("stored"));
  expect(server.asked.length).toBe(12);
});

test("a browser that can store nothing sends directly, and tells the form when the link is lost", async ({ page }) => {
  const server = new Server();
  await page.addInitScript(() => {
    const open = () => {
      throw new Error("no store");
    };
    Object.defineProperty(window, "indexedDB", { value: { open } });
  });
  await server.open(page);
  expect(await sendAll(page, [{ path: line(1), text: "one", version: 0 }])).toEqual(["stored"]);
  server.mood = () => "lost";
  expect(await sendAll(page, [{ path: line(2), text: "two", version: 0 }])).toEqual(["The notebook's server was not reached."]);
  server.mood = () => "ok";
  expect(await sendAll(page, [{ path: line(3), text: "three", version: 0 }])).toEqual(["stored"]);
  expect(texts(server)).toEqual(["one", "two", "three"]);
});
