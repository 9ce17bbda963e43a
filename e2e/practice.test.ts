import { expect, outing, test } from "./app";

test("a game of trimming: bad input, a timid move, the end judged beside the advisor", async ({ page, app }) => {
  await outing(app);
  await page.goto(`${app.url}/practice`);
  await page.getByRole("button", { name: "Start a round" }).click();
  await expect(page.getByRole("button", { name: "Raise it and sweep" })).toBeVisible();
  // From here on a deal that is known: of some one centimetre is enough.
  await page.evaluate(() => localStorage.setItem("draft:game", JSON.stringify({ seed: 3, moves: [] })));
  await page.reload();
  await expect(page.getByRole("heading", { level: 1, name: /kHz below\. How much do you fold back\?/ })).toBeVisible();
  await expect(page.getByRole("img", { name: /^SWR: lowest/ })).toBeVisible();
  const raise = page.getByRole("button", { name: "Raise it and sweep" });
  await raise.click();
  await expect(page.getByText("How much? Write it like 12 cm.")).toBeVisible();
  await page.getByLabel("How much, m").fill("a bit");
  await raise.click();
  await expect(page.getByText(/"a bit"/)).toBeVisible();
  await expect(page.getByLabel("How much, m")).toHaveValue("a bit");
  await page.getByLabel("How much, m").fill("1 cm");
  await raise.click();
  await expect(page.getByText("up 2", { exact: true })).toBeVisible();
  await expect(page.getByText(/folded back 1\.?0* ?cm/).first()).toBeVisible();
  // The page is left and found again as it was.
  await page.goto(`${app.url}/`);
  await page.getByRole("link", { name: "Practice" }).first().click();
  await expect(page.getByText("up 2", { exact: true })).toBeVisible();
  await page.getByRole("button", { name: "Give up and show the answer" }).click();
  await expect(page.getByRole("heading", { level: 1, name: "Given up. This is how it was." })).toBeVisible();
  const judged = page.getByRole("region", { name: /^Your moves/ });
  await expect(judged.getByText("careful: it costs another lowering")).toBeVisible();
  await expect(page.getByText(/^.*It acted [\d.]+ % longer than its tape over/)).toBeVisible();
  await page.getByRole("button", { name: "Start another round" }).click();
  await expect(page.getByText("up 2", { exact: true })).toHaveCount(0);
});
