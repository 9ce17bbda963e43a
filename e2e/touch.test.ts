import { expect, type Page } from "@playwright/test";
import { test } from "./app";

const stages = ["scout", "cut", "raise", "sweep", "work", "weigh"];

async function screens(shared: { url: string }) {
  const list = await (await fetch(`${shared.url}/api/outings`)).json();
  const id = list.find((o: { outing: { name: string } }) => o.outing.name === "Gannet Spit").outing.id;
  return ["/", "/settings", "/bag", "/bench", "/practice", "/record", ...stages.map((s) => `/o/${id}/${s}`)];
}

async function stands(page: Page) {
  await expect(page.getByRole("heading", { level: 1 })).toBeVisible();
  await page.waitForTimeout(700);
  await expect(page.getByRole("progressbar")).toHaveCount(0);
}

test.describe("by thumb", () => {
  test.use({ viewport: { width: 390, height: 844 }, hasTouch: true, isMobile: true });

  test("whatever is pressed in the field is as large as a thumb, and no screen is longer than two and a half", async ({ page, shared }) => {
    for (const path of await screens(shared)) {
      await page.goto(shared.url + path);
      await stands(page);
      const small = await page.evaluate(() => {
        const out: string[] = [];
        for (const e of Array.from(document.querySelectorAll<HTMLElement>("button, a, select, summary, input, textarea, [role=button]"))) {
          // What is pressed through its label is as large as that; what is drawn or in a running sentence is not a target of its own.
          const at = (e.matches("input[type=radio], input[type=checkbox], input[type=file]") && e.closest("label")) || e;
          const box = at.getBoundingClientRect();
          const hidden = box.width === 0 || getComputedStyle(at).visibility === "hidden" || at.closest("details:not([open])") !== null;
          const inSentence = e.matches("a") && /\S\s*$|^\s*\S/.test(e.parentElement?.textContent?.replace(e.textContent ?? "", "") ?? "");
          if (at.closest("summary") === null && at.closest("details:not([open])") && !e.matches("summary")) continue;
          if (hidden && !e.matches("summary")) continue;
          if (e.matches(".skip") || (inSentence && e.closest("p, td, li, span"))) continue;
          const reach = e.matches("input, select, textarea") ? (e.closest(".MuiInputBase-root") ?? at).getBoundingClientRect() : box;
          const name = (e.textContent || e.getAttribute("aria-label") || (e as HTMLInputElement).name || "").trim().slice(0, 30);
          if (reach.height < 43.5 || reach.width < 43.5) out.push(`${name} ${Math.round(reach.width)}x${Math.round(reach.height)}`);
        }
        return out;
      });
      expect.soft(small, path).toEqual([]);
      const glasses = await page.evaluate(() => document.documentElement.scrollHeight / 844);
      expect.soft(glasses, path).toBeLessThanOrEqual(2.5);
    }
  });
});

// What moves by itself while somebody is about to press: the browser tells every such shift, with how far each thing went.
async function shifts(page: Page) {
  return page.evaluate(
    () =>
      new Promise<string[]>((done) => {
        const out: string[] = [];
        new PerformanceObserver((list) => {
          for (const entry of list.getEntries() as (PerformanceEntry & {
            hadRecentInput: boolean;
            sources?: { node?: Node; previousRect: DOMRect; currentRect: DOMRect }[];
          })[])
            for (const s of entry.sources ?? []) {
              const by = Math.abs(s.currentRect.y - s.previousRect.y);
              const was = s.previousRect;
              if (was.width > 0 && was.height > 0 && s.currentRect.height > 0 && by > 2)
                out.push(`${(s.node as Element)?.className || s.node?.nodeName} by ${by.toFixed(0)}`);
            }
        }).observe({ type: "layout-shift", buffered: true });
        setTimeout(() => done(out), 50);
      }),
  );
}

for (const [what, viewport] of [
  ["at the table", { width: 1280, height: 800 }],
  ["by thumb", { width: 390, height: 844 }],
] as const)
  test.describe(what, () => {
    test.use({ viewport, hasTouch: viewport.width < 821, isMobile: viewport.width < 821 });
    test("nothing moves by itself while it is computed", async ({ page, shared }) => {
      for (const path of (await screens(shared)).filter((p) => /cut|raise|sweep|work|weigh/.test(p))) {
        await page.goto(shared.url + path);
        await stands(page);
        expect.soft(await shifts(page), path).toEqual([]);
      }
    });
  });
