// Takes the pictures in docs/screenshots from the demo data: make screenshots. With arguments, the first is the folder to write
// to and the others name the pictures to take.
import { spawn } from "node:child_process";
import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { chromium } from "@playwright/test";

const folder = process.argv[2] ?? "../docs/screenshots";
const wanted = process.argv.slice(3);
const data = mkdtempSync(join(tmpdir(), "reed-shots-"));
const child = spawn("../bin/reed", ["demo", "--data", data, "--listen", "127.0.0.1:0"], { stdio: ["ignore", "pipe", "inherit"] });
const url = await new Promise((r) => child.stdout.on("data", (d) => r(/http:\S+/.exec(String(d))[0])));
const browser = await chromium.launch({
  executablePath: "/usr/bin/chromium",
  args: ["--no-sandbox", "--disable-gpu", "--disable-background-networking", "--disable-component-update", "--disable-sync"],
});
const tags = await (await fetch(`${url}/api/tags`)).json();
const of = (name) => tags.find((t) => t.tag.name === name);

async function shot(name, path, { tag, size = [1280, 800], light = "paper", pair, act } = {}) {
  if (wanted.length > 0 && !wanted.includes(name)) return;
  const context = await browser.newContext({ viewport: { width: size[0], height: size[1] }, serviceWorkers: "block" });
  await context.addInitScript(
    ([l, outing, deployment, p]) => {
      localStorage.setItem("light", l);
      if (deployment) localStorage.setItem(`at:deployment:${outing}`, deployment);
      if (p) localStorage.setItem(`draft:weighed:${outing}`, JSON.stringify(p));
    },
    [light, tag?.outing_id, tag?.tag.id, pair],
  );
  const page = await context.newPage();
  await page.clock.setFixedTime(new Date("2026-05-16T17:06:00Z"));
  await page.goto(url + path);
  await page.waitForLoadState("load");
  await page.waitForTimeout(1200);
  await act?.(page);
  await page.waitForTimeout(600);
  await page.screenshot({ path: join(folder, `${name}.png`) });
  await context.close();
}

const heron = of("Heron");
const at = (tag, stage) => `/o/${tag.outing_id}/${stage}`;
const curlew = of("Curlew");
const phone = [390, 844];
await shot("shelf", "/");
await shot("settings", "/settings");
const bittern = of("Bittern");
await shot("scout", at(bittern, "scout"), {
  tag: bittern,
  act: async (p) => {
    await p.getByRole("button", { name: "Plan this antenna" }).waitFor({ timeout: 60_000 });
    await p.mouse.wheel(0, 200);
  },
});
await shot("scout-phone", at(bittern, "scout"), {
  tag: bittern,
  size: [390, 1640],
  act: async (p) => {
    await p.getByRole("button", { name: "Plan this antenna" }).waitFor({ timeout: 60_000 });
    for (const fold of ["Band conditions", "Packing list"])
      await p
        .locator("summary")
        .filter({ hasText: new RegExp(`^${fold}`) })
        .click();
    await p.getByRole("region", { name: "Band conditions" }).evaluate((e) => e.scrollIntoView({ block: "start" }));
  },
});
const godwit = of("Godwit");
await shot("cut", at(godwit, "cut"), { tag: godwit });
const settled = async (p) => {
  await p.getByText("vs. a dipole at the same height").first().waitFor({ timeout: 60_000 });
  await p.getByRole("progressbar").first().waitFor({ state: "detached", timeout: 60_000 });
};
const rail = of("Rail");
await shot("forecast", at(rail, "cut"), {
  tag: rail,
  act: async (p) => {
    await settled(p);
    await p.getByRole("region", { name: "Computed" }).evaluate((e) => e.scrollIntoView({ block: "start" }));
  },
});
const wigeon = of("Wigeon");
await shot("marks", at(wigeon, "sweep"), {
  tag: wigeon,
  act: async (p) => {
    await p.getByText("settings and marks").click();
    await p.getByLabel("Frequency to set, MHz").fill("10.14");
    await p.getByText(/^Between your marks/).waitFor();
  },
});
await shot("practice", "/practice", {
  act: async (p) => {
    await p.evaluate(() =>
      localStorage.setItem(
        "draft:game",
        JSON.stringify({
          seed: 12,
          moves: [{ length: { typed: "6 cm", unit: "m" } }, { length: { typed: "9 cm", unit: "m" } }],
          give_up: true,
        }),
      ),
    );
    await p.reload();
    await p.getByText("still off by").first().waitFor({ timeout: 60_000 });
  },
});
await shot("bag", "/bag", { act: (p) => p.getByRole("button", { name: /49:1 on one ring/ }).click() });
await shot("bench", "/bench", { act: (p) => p.getByRole("radio", { name: "Radial wire" }).check({ force: true }) });
await shot("raise", at(heron, "raise"), { tag: heron, act: (p) => p.getByText(/^Computed: SWR/).waitFor({ timeout: 60_000 }) });
const swept = (p) => p.getByText(/^Computed: [\d.]+ at/).waitFor({ timeout: 60_000 });
await shot("sweep", at(curlew, "sweep"), { tag: curlew, act: swept });
await shot("why", at(curlew, "sweep"), {
  tag: curlew,
  act: async (p) => {
    await swept(p);
    await p.getByRole("button", { name: "Why does it differ from the model?" }).click();
    await p.getByRole("button", { name: /^All lengths are off/ }).click({ timeout: 60_000 });
    await p.getByText("predicted if").evaluate((e) => e.scrollIntoView({ block: "start" }));
  },
});
await shot("sweep-phone", at(curlew, "sweep"), { tag: curlew, size: phone, act: swept });
await shot("work", at(heron, "work"), { tag: heron });
await shot("work-phone", at(heron, "work"), { tag: heron, size: phone });
await shot("heard", at(heron, "work"), {
  light: "sun",
  tag: heron,
  act: async (p) => {
    await p.getByRole("group", { name: /^Map around your station/ }).waitFor({ timeout: 60_000 });
    await p.getByRole("heading", { name: "Beacon run" }).evaluate((e) => e.scrollIntoView({ block: "start" }));
  },
  size: [1280, 1000],
});
const pair = [of("Stilt").tag.id, curlew.tag.id];
await shot("weigh", at(curlew, "weigh"), { tag: curlew, pair });
await shot("record", "/record", { light: "dusk" });
await browser.close();
child.kill();
rmSync(data, { recursive: true, force: true });
