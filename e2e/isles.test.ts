import { expect, outing, put, test, uid } from "./app";

test("an empty notebook offers to look round in made-up data, and one press brings one back", async ({ page, app }) => {
  await page.goto(app.url);
  await expect(page.getByRole("heading", { name: "Welcome" })).toBeVisible();
  await page.getByRole("button", { name: "Try the demo notebook" }).click();
  await expect(page.getByText("Demo notebook: all data is made up.")).toBeVisible();
  expect(new URL(page.url()).port).not.toBe(new URL(app.url).port);
  // What is done there stays there.
  await page.getByRole("link", { name: "Gannet Spit" }).click();
  await page.getByRole("link", { name: /Work/ }).click();
  await page.getByLabel(/Call, reports/).fill("Q9ISLE 59 59 40m SSB");
  await page.getByRole("button", { name: "Log it" }).click();
  await expect(page.getByRole("cell", { name: "Q9ISLE", exact: true })).toBeVisible();
  await expect(page.getByText("all data is made up")).toBeVisible();
  await page.getByRole("link", { name: "Back to my own notebook" }).click();
  await expect(page.getByRole("heading", { name: "Welcome" })).toBeVisible();
  expect(page.url()).toBe(`${app.url}/`);
  await expect(page.getByText("made up", { exact: false })).toHaveCount(0);
  expect(await (await fetch(`${app.url}/api/outings`)).json()).toEqual([]);
  // The second time it is there at once, as it was left.
  await page.getByRole("button", { name: "Try the demo notebook" }).click();
  await expect(page.getByText("all data is made up")).toBeVisible();
});

test("the link down: a kept plan is shown as it was kept, a new one says why it is not worked out", async ({ page, app }) => {
  await outing(app);
  const plan = { family: "dipole", variant: "flat", frequency_hz: 0, wire: "pvc", texts: { for: "20m" }, unit: "m", ground: "sea" };
  await put(app, `/api/deployments/${uid(4)}`, { outing_id: uid(1), name: "Knot", plan });
  // Two of one name in an outing are not told apart: the second is asked for another.
  const twice = await fetch(`${app.url}/api/deployments/${uid(5)}`, {
    method: "PUT",
    headers: { "Content-Type": "application/json" },
    body: JSON.stringify({ outing_id: uid(1), name: "knot", plan }),
  });
  expect(twice.status).toBe(422);
  expect((await twice.json()).errors[0]).toMatchObject({ path: "name" });
  // Without a name it goes by its kind and band, numbered where that is taken.
  for (const [n, name] of [
    [6, "Dipole 20 m"],
    [7, "Dipole 20 m 2"],
  ] as const)
    expect((await put(app, `/api/deployments/${uid(n)}`, { outing_id: uid(1), name: "", plan })).deployment.name).toBe(name);
  await page.goto(`${app.url}/o/${uid(1)}/cut`);
  await page.getByRole("button", { name: /^Knot/ }).click();
  await expect(page.getByRole("heading", { level: 1 })).toHaveText(/^Cut 2 legs of/);
  const says = await page.getByRole("heading", { level: 1 }).innerText();
  await page.getByRole("link", { name: /Scout/ }).click();
  await page.route("**/api/plan", (r) => r.abort());
  await page.route("**/api/compute/**", (r) => r.abort());
  await page.getByRole("link", { name: /Cut/ }).click();
  await expect(page.getByRole("heading", { level: 1 })).toHaveText(says);
  await page.getByLabel("Feed height, m").fill("7.3");
  await expect(page.getByText("No connection: this is the plan as it was saved.")).toBeVisible();
  await page.getByRole("button", { name: "Another antenna" }).click();
  await expect(page.getByRole("heading", { level: 1 })).toHaveText("No connection: a new plan is computed when it is back.", {
    timeout: 30_000,
  });
});
