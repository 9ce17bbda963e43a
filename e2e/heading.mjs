// How soon the first heading of each main screen stands, cold: a browser with nothing kept, the demo data.
// The least of the runs is what the screen itself takes, the middle one what this machine made of it just now.
import { chromium } from "@playwright/test";

const url = process.argv[2];
const times = Number(process.argv[3] ?? 7);
const browser = await chromium.launch({
  executablePath: "/usr/bin/chromium",
  args: ["--no-sandbox", "--disable-gpu", "--disable-background-networking", "--disable-component-update", "--disable-sync"],
});
const tags = await (await fetch(`${url}/api/tags`)).json();
const heron = tags.find((t) => t.tag.name === "Heron");

async function once(path) {
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 }, serviceWorkers: "block" });
  await context.addInitScript(() => {
    new MutationObserver((_, watch) => {
      const h = document.querySelector("h1");
      if (!h?.textContent) return;
      watch.disconnect();
      requestAnimationFrame(() => {
        window.stood = performance.now();
      });
    }).observe(document, { childList: true, subtree: true, characterData: true });
  });
  const page = await context.newPage();
  await page.goto("about:blank");
  await page.waitForTimeout(700); // the browser itself has begun
  await page.goto(url + path);
  await page.waitForFunction(() => window.stood > 0);
  const at = await page.evaluate(() => window.stood);
  await context.close();
  return at;
}

for (const name of ["", "scout", "cut", "raise", "sweep", "work", "weigh", "bag", "bench", "settings"]) {
  const path = ["", "bag", "bench", "settings"].includes(name) ? `/${name}` : `/o/${heron.outing_id}/${name}`;
  const found = [];
  for (let i = 0; i < times; i++) found.push(await once(path));
  found.sort((a, b) => a - b);
  const ms = (v) => `${v.toFixed(0)} ms`;
  console.log(`first heading, ${(name || "shelf").padEnd(8)} least ${ms(found[0])}, middle ${ms(found[times >> 1])} of ${times}`);
}
await browser.close();
