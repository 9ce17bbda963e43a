import { expect, outing, pick, put, test, uid } from "./app";

test("an operator who thinks in feet plans, builds and trims in feet", async ({ page, app }) => {
  await outing(app);
  await page.goto(`${app.url}/settings`);
  await page.getByLabel("Units").selectOption("yes");
  await page.getByRole("button", { name: "Save settings" }).click();
  await expect(page.getByText("Saved.")).toBeVisible();

  await page.goto(`${app.url}/o/${uid(1)}/cut`);
  await page.getByRole("button", { name: "Another antenna" }).click();
  await pick(page, "dipole");
  await page.getByLabel("Frequencies, MHz").fill("14100 kHz");
  await expect(page.getByText("14.100 MHz").filter({ visible: true }).first()).toBeVisible();
  // A bare number is feet here, and 20 ft are 6.096 m.
  await page.getByLabel("Feed height, ft").fill("20");
  await expect(page.getByText("20' 0\"", { exact: true }).first()).toBeVisible();
  await page.getByLabel("Antenna name").fill("Curlew");
  await page.getByRole("button", { name: /Save plan/ }).click();

  await expect(page).toHaveURL(/\/raise$/);
  await page.getByLabel("First leg, ft").fill("16' 8 1/2\"");
  await page.getByLabel("Second leg, ft").fill("16.7");
  await expect(page.getByText("16' 8 3/8\"", { exact: false }).first()).toBeVisible();
  await page.getByRole("button", { name: "Save as revision 1" }).click();

  // Resonant at 13.8 for 14.1: 33.4 ft are 0.72 ft or 8 5/8 in too long.
  await page.getByRole("button", { name: "Type readings" }).click();
  await page.getByLabel(/Frequency in MHz and SWR/).fill("13.5 3.1\n13.7 1.6\n13.8 1.2\n13.9 1.6\n14.1 3.0\n14.3 5.5");
  await page.getByRole("button", { name: /Save to revision 1/ }).click();
  await expect(page.getByRole("heading", { level: 1, name: /^Fold back (\d|').*" on each leg, then sweep again/ })).toBeVisible({
    timeout: 30_000,
  });
  await expect(page.getByText("The chance of cutting too short", { exact: false })).toBeVisible();
  await page.getByRole("button", { name: "Folded: save as revision 2" }).click();
  await expect(page.getByText("Saved as revision 2")).toBeVisible();
  await expect(page.locator(".thread")).toContainText(/radiator: .*16' 8 .* to .*16' /);
});

test("marks of a mixed bag: metric text typed by an operator in feet keeps its value", async ({ page, app }) => {
  await outing(app);
  const me = await (await fetch(`${app.url}/api/me`)).json();
  await put(app, `/api/me?version=${me.version}`, { ...me, imperial: true });
  await page.goto(`${app.url}/o/${uid(1)}/raise`);
  await expect(page.getByLabel("Radiator, ft")).toHaveValue("20.5 m");
  await page.getByLabel("Radiator, ft").fill("20.38 m");
  await page.getByRole("button", { name: "Save as revision 2" }).click();
  await expect(page).toHaveURL(/\/sweep$/);
  const d = await (await fetch(`${app.url}/api/deployments/${uid(2)}`)).json();
  expect(d.revisions[1].built.radiator.m).toBeCloseTo(20.38, 9);
});

test("parts and the bench speak feet to who thinks in feet", async ({ page, app }) => {
  await outing(app);
  const me = await (await fetch(`${app.url}/api/me`)).json();
  await put(app, `/api/me?version=${me.version}`, { ...me, imperial: true });
  await page.goto(`${app.url}/bag`);
  await page.getByRole("button", { name: "Add item" }).click();
  await page.getByLabel("What is it").selectOption("pole");
  await page.getByLabel("Name").fill("Tall one");
  await page.getByLabel("Fully extended length, ft").fill("33");
  await page.getByLabel("Usable height, ft").fill("26' 3\"");
  await page.getByRole("button", { name: "Save item" }).click();
  await expect(page.getByRole("button", { name: /Tall one/ })).toBeVisible();
  const bag = await (await fetch(`${app.url}/api/bag`)).json();
  expect(bag.things[0].part.sizes.length.m).toBeCloseTo(33 * 0.3048, 9);
  expect(bag.things[0].part.sizes.usable.m).toBeCloseTo(315 * 0.0254, 9);
  await page.getByRole("button", { name: /Tall one/ }).click();
  await expect(page.getByLabel("Fully extended length, ft")).toHaveValue("33' 0\"");
  await page.goto(`${app.url}/bench`);
  await pick(page, "Radial wire");
  await page.getByLabel("Radial wire, ft").fill("131' 2 13/16\"");
  await expect(page.getByRole("heading", { name: /^Cut 131' 2 13\/16" of wire into \d+ radials of \d+' / })).toBeVisible();
});
