import { writeFileSync } from "node:fs";
import { join } from "node:path";
import { expect, outing, pick, printed, put, test, uid, unfold } from "./app";

test("three families for the same bands from the bag: compared, printed, mis-measured", async ({ page, app }) => {
  await outing(app);
  // The bag, begun from nothing: a reel, a transformer, a pole; the rest from a file.
  await page.goto(`${app.url}/bag`);
  await expect(page.getByRole("heading", { name: /^The bag is empty/ })).toBeVisible();
  await page.getByRole("button", { name: "Add item" }).click();
  await page.getByLabel("Name").fill("Green reel");
  await page.getByLabel("Conductor diameter, mm").fill("thick");
  await page.getByRole("button", { name: "Save item" }).click();
  await expect(page.getByText('"thick" is not', { exact: false }).first()).toBeVisible();
  await page.getByLabel("Conductor diameter, mm").fill("0,9");
  await page.getByLabel("Diameter with jacket, mm").fill("2.0 mm");
  await page.getByLabel("Permittivity of the jacket").fill("3.2");
  await page.getByLabel("Remaining on reel, m").fill("30 m");
  await page.getByRole("button", { name: "Save item" }).click();
  await expect(page.getByRole("button", { name: /Green reel/ })).toContainText("not used yet");
  const file = join(app.data, "bag.csv");
  writeFileSync(
    file,
    "kind;name;primary;secondary;length;usable;usage\ntransformer;Nine to one;9;27;;;loud\npole;Eight metres;;;8 m;7,2 m;\npole;;;;5 m;;\n",
  );
  await page.getByLabel("Import items from CSV").setInputFiles(file);
  await expect(page.getByRole("heading", { name: "3 items in the file, 2 to add" })).toBeVisible();
  await expect(page.getByText("a name is missing", { exact: false })).toBeVisible();
  await page.getByRole("button", { name: "Add 2 items" }).click();
  await expect(page.getByText("2 added, 0 already in the bag, 1 skipped.")).toBeVisible();

  // Three families for 7.1 and 14.06, all from the reel.
  await page.goto(`${app.url}/o/${uid(1)}/cut`);
  const plans: [string, string, RegExp][] = [
    ["linked dipole", "Godwit", /^Cut for each leg/],
    ["random wire", "Pipit", /^Cut 1 radiator/],
    ["coil and tail", "Wigeon", /^Cut 1 main wire/],
  ];
  for (const [short, name, heading] of plans) {
    await page.getByRole("button", { name: "Another antenna" }).click();
    await pick(page, short);
    await page.getByLabel("Frequencies, MHz").fill("7.1 14.06");
    await page.getByRole("combobox", { name: "Wire" }).selectOption({ label: "Green reel (bag)" });
    await unfold(page);
    await page.getByLabel("Pole (bag)").selectOption({ label: "Eight metres" });
    if (name === "Pipit") await page.getByRole("combobox", { name: "Transformer" }).selectOption({ label: "Nine to one" });
    await expect(page.getByRole("heading", { name: heading })).toBeVisible();
    await page.getByLabel("Antenna name").fill(name);
    await page.getByRole("button", { name: /Save plan/ }).click();
    await expect(page).toHaveURL(/\/raise$/);
    await page.goto(`${app.url}/o/${uid(1)}/cut`);
  }
  await page.getByRole("button", { name: "Cut lists side by side" }).click();
  const sheet = page.getByRole("region", { name: "Cut lists side by side" });
  for (const [, name] of plans) await expect(sheet.getByRole("button", { name: new RegExp(name) })).toBeVisible();
  const lists = await (await fetch(`${app.url}/api/outings/${uid(1)}/cutlists`)).json();
  const of = (name: string) => lists.columns.find((c: { name: string }) => c.name === name);
  // Added up again here: every piece as often as it is cut, all from the reel of 30 m.
  for (const [, name] of plans) {
    const c = of(name);
    let wire = 0;
    for (const p of c.pieces) if (p.of === "wire") wire += p.count * p.cut.m;
    expect(c.wire.m).toBeCloseTo(wire, 6);
    await expect(sheet).toContainText(`the reel keeps ${(30 - wire).toFixed(2)} m`);
  }
  const least = [...lists.columns].sort((a, b) => a.wire.m - b.wire.m)[0];
  await expect(page.getByRole("heading", { level: 1 })).toHaveText(
    new RegExp(`^${least.name} takes the least wire, ${least.wire.m.toFixed(2)} m`),
  );

  // One of them on paper: the numbers of the list, in both systems, and the strip at its true size.
  await sheet.getByRole("button", { name: /Wigeon/ }).click();
  await expect(page.getByRole("heading", { name: /^Cut 1 main wire/ })).toBeVisible();
  const paper = await printed(page);
  for (const p of of("Wigeon").pieces) {
    expect(paper).toContain(p.cut.metric);
    expect(paper).not.toContain(p.cut.imperial);
  }
  expect(paper).toContain("100 mm: measure it");
  expect(paper).not.toContain("Save plan");
  await page.getByText("Marks to print at true size").click();
  await page.emulateMedia({ media: "print" });
  const strip = page.locator(".strips svg").first();
  const box = await strip.boundingBox();
  const mm = Number(/^-6 0 ([\d.]+)/.exec((await strip.getAttribute("viewBox")) ?? "")?.[1]);
  expect((box?.width ?? 0) / ((mm * 96) / 25.4)).toBeCloseTo(1, 2);
  await page.emulateMedia({ media: "screen" });

  // Every wire measured 3 % too long: a tape, not a cutter.
  await page
    .getByRole("button", { name: "Godwit C" })
    .or(page.getByRole("button", { name: /^Godwit/ }))
    .first()
    .click();
  await expect(page.getByRole("heading", { name: /^Cut for each leg/ })).toBeVisible();
  await page.getByText("Double-check the length").click();
  await expect(page.getByText("Measure every piece again after cutting")).toBeVisible();
  const fields = page.getByLabel(/as measured, m$/);
  const wanted = of("Godwit").pieces.flatMap((p: { count: number; cut: { m: number } }) => Array(p.count).fill(p.cut.m));
  expect(await fields.count()).toBe(wanted.length);
  for (let i = 0; i < wanted.length; i++) await fields.nth(i).fill(`${(wanted[i] * 1.03).toFixed(3)} m`);
  await expect(page.getByText(`All ${wanted.length} pieces are long by the same share, 3.0 %`, { exact: false })).toBeVisible();
  await expect(page.getByText("a probable tape mistake", { exact: false })).toBeVisible();
  // It is kept with the plan.
  await page.getByRole("button", { name: "Save plan" }).click();
  await expect(page).toHaveURL(/\/raise$/);
  await page.goto(`${app.url}/o/${uid(1)}/cut`);
  await page
    .getByRole("button", { name: /^Godwit/ })
    .first()
    .click();
  await expect(page.getByText("a probable tape mistake", { exact: false })).toBeVisible();
  // And the reel has a history now.
  await page.goto(`${app.url}/bag`);
  await expect(page.getByRole("button", { name: /Green reel/ })).toContainText("used in 3 set-ups");
  await page.getByRole("button", { name: /Green reel/ }).click();
  await page.getByRole("button", { name: "Delete" }).click();
  await expect(page.getByText("Green reel is deleted.")).toBeVisible();
  await page.getByRole("button", { name: "Undo" }).click();
  await expect(page.getByRole("button", { name: /Green reel/ })).toBeVisible();
});

test("the bench answers while one types, and takes figures from the bag", async ({ page, app }) => {
  await outing(app);
  await put(app, `/api/parts/${uid(60)}`, {
    kind: "coil",
    name: "White coil",
    texts: { coil_former: "49 mm", coil_wire: "1 mm", turns: "60", coil_length: "100 mm" },
  });
  await page.goto(`${app.url}/bench`);
  await page.getByLabel("From the bag").selectOption({ label: "White coil" });
  await page.getByLabel("Pitch, turn to turn, mm").fill("1");
  // Nagaoka: 60 turns, 50 mm mean diameter, 100 mm long are 72.7 uH.
  await expect(page.getByRole("heading", { name: "60 turns are 72.7 uH." })).toBeVisible();
  await page.getByLabel("Turns", { exact: true }).fill("many");
  await expect(page.getByText('"many" is not a number', { exact: false })).toBeVisible();
  await page.getByLabel("Turns", { exact: true }).fill("30");
  await expect(page.getByRole("heading", { name: /^30 turns are/ })).toBeVisible();
  for (const [tool, says] of [
    ["Transformer", /3 to 21 turns are 1:49/],
    ["Cable", /^Through 15.00 m of RG-58/],
    ["Tuner", /^It matches 200/],
    ["Radial wire", /^Cut 40.00 m of wire into \d+ radials/],
  ] as const) {
    await pick(page, tool);
    await expect(page.getByRole("heading", { name: says })).toBeVisible();
  }
  await page.getByLabel("Radial wire, m").fill("80 m");
  await expect(page.getByRole("heading", { name: /^Cut 80.00 m of wire into \d+ radials/ })).toBeVisible();
  await page.reload();
  await expect(page.getByLabel("Radial wire, m")).toHaveValue("80 m");
});

test("the drawing is taken by hand, and every length follows", async ({ page, app }) => {
  await outing(app);
  await page.goto(`${app.url}/o/${uid(1)}/cut`);
  await page.getByRole("button", { name: "Another antenna" }).click();
  await pick(page, "dipole");
  await page.getByText("inverted V", { exact: true }).click();
  await page.getByLabel("Frequencies, MHz").fill("14.06");
  await expect(page.getByRole("heading", { name: /^Cut 2 legs of/ })).toBeVisible();
  const before = await page.getByRole("row", { name: /2 legs/ }).innerText();
  const handle = page.locator("svg g", { has: page.locator("title", { hasText: "Drag the feed point" }) }).locator("circle");
  await handle.scrollIntoViewIfNeeded();
  const box = await handle.boundingBox();
  if (!box) throw new Error("no handle");
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2 + 40, { steps: 5 });
  await page.mouse.up();
  const height = Number.parseFloat(await page.getByLabel("Feed height, m").inputValue());
  expect(height).toBeGreaterThan(3);
  expect(height).toBeLessThan(5.9);
  await expect(page.getByRole("row", { name: /2 legs/ })).not.toHaveText(before);
});
