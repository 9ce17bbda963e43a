import { expect, outing, put, test, uid } from "./app";

test("an operator who thinks in feet plans, builds and trims in feet", async ({ page, app }) => {
  await outing(app);
  await page.goto(`${app.url}/settings`);
  await page.getByLabel("Units").selectOption("yes");
  await page.getByRole("button", { name: "Keep these" }).click();
  await expect(page.getByText("Kept.")).toBeVisible();

  await page.goto(`${app.url}/o/${uid(1)}/cut`);
  await page.getByRole("button", { name: "Another antenna" }).click();
  await page.getByRole("radio", { name: "dipole", exact: true }).check({ force: true });
  await page.getByLabel("For, MHz").fill("14100 kHz");
  await expect(page.getByText("14.100 MHz").first()).toBeVisible();
  // A bare number is feet here, and 20 ft are 6.096 m.
  await page.getByLabel("Feed point up, ft").fill("20");
  await expect(page.getByText("6.096 m · 20' 0\"").or(page.getByText("6.096 m  ·  20' 0\"")).first()).toBeVisible();
  await page.getByLabel("Call it").fill("Curlew");
  await page.getByRole("button", { name: /Keep this plan/ }).click();

  await expect(page).toHaveURL(/\/raise$/);
  await page.getByLabel("First leg, ft").fill("16' 8 1/2\"");
  await expect(page.getByText("5.093 m", { exact: false }).first()).toBeVisible();
  await page.getByLabel("Second leg, ft").fill("16.7");
  await expect(page.getByText("16' 8 3/8\"", { exact: false }).first()).toBeVisible();
  await page.getByRole("button", { name: "Keep as r1" }).click();

  // Resonant at 13.8 for 14.1: 33.4 ft are 0.72 ft or 8 5/8 in too long.
  await page.getByRole("button", { name: "Type readings" }).click();
  await page.getByLabel(/Frequency in MHz and SWR/).fill("13.5 3.1\n13.7 1.6\n13.8 1.2\n13.9 1.6\n14.1 3.0\n14.3 5.5");
  await page.getByRole("button", { name: "Look at these" }).click();
  await page.getByRole("button", { name: /Keep it with r1/ }).click();
  await expect(page.getByRole("heading", { name: /too long\. Fold back .*" on each leg/ })).toBeVisible();
  await page.getByRole("button", { name: "Folded, make it r2" }).click();
  await expect(page.getByText("Kept as r2")).toBeVisible();
  await expect(page.locator(".thread")).toContainText(/radiator: .*16' 8 .* to .*16' /);
});

test("marks of a mixed bag: metric text typed by an operator in feet keeps its value", async ({ page, app }) => {
  await outing(app);
  const me = await (await fetch(`${app.url}/api/me`)).json();
  await put(app, "/api/me", { ...me, imperial: true });
  await page.goto(`${app.url}/o/${uid(1)}/raise`);
  await expect(page.getByLabel("Radiator, ft")).toHaveValue("20.5 m");
  await page.getByLabel("Radiator, ft").fill("20.38 m");
  await page.getByRole("button", { name: "Keep as r2" }).click();
  await expect(page).toHaveURL(/\/sweep$/);
  const d = await (await fetch(`${app.url}/api/deployments/${uid(2)}`)).json();
  expect(d.revisions[1].built.radiator.m).toBeCloseTo(20.38, 9);
});
