import { createServer, request } from "node:http";
import type { AddressInfo } from "node:net";
import { type App, expect, outing, test, uid } from "./app";

test.use({ serviceWorkers: "allow" });

/** Stands between page and notebook, and hands out another service worker once it is told to. */
async function between(app: App) {
  let version = 1;
  const server = createServer((from, to) => {
    const onward = request(
      app.url + from.url,
      { method: from.method, headers: { ...from.headers, "accept-encoding": "identity" } },
      (answer) => {
        if (from.url !== "/sw.js") {
          to.writeHead(answer.statusCode ?? 500, answer.headers);
          answer.pipe(to);
          return;
        }
        const parts: Buffer[] = [];
        answer.on("data", (d) => parts.push(d));
        answer.on("end", () => {
          to.writeHead(200, { "Content-Type": "text/javascript", "Cache-Control": "no-cache" });
          to.end(`${Buffer.concat(parts)}\n// version ${version}`);
        });
      },
    );
    onward.on("error", () => to.destroy());
    to.on("close", () => onward.destroy());
    from.pipe(onward);
  });
  await new Promise<void>((done) => server.listen(0, "127.0.0.1", done));
  return {
    url: `http://127.0.0.1:${(server.address() as AddressInfo).port}`,
    renew: () => version++,
    close: () => {
      server.closeAllConnections();
      server.close();
    },
  };
}

test("a page hears of a new version when the notebook comes back, offers to reload, and keeps what was typed", async ({ page, app }) => {
  await outing(app);
  const proxy = await between(app);
  try {
    await page.goto(`${proxy.url}/o/${uid(1)}/work`);
    await expect(page.getByText("No contacts yet", { exact: false })).toBeVisible();
    await page.evaluate(async () => void (await navigator.serviceWorker.ready));
    await page.reload();
    await expect(page.getByText("No contacts yet", { exact: false })).toBeVisible();
    await page.getByLabel(/Call, reports/).fill("Q2TAV 59 5");
    await expect(page.getByText("A new version of the notebook")).toHaveCount(0);
    await app.stop();
    proxy.renew();
    await app.start();
    await expect(page.getByText("A new version of the notebook")).toBeVisible();
    await page.getByRole("button", { name: "Reload" }).click();
    await expect(page.getByLabel(/Call, reports/)).toHaveValue("Q2TAV 59 5");
    await expect(page.getByText("A new version of the notebook")).toHaveCount(0);
  } finally {
    proxy.close();
  }
});
