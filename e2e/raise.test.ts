import { expect, outing, printed, put, test, uid, unfold } from "./app";

const length = (m: number) => ({ typed: `${m} m`, unit: "m" });

/** A small PNG as a camera's screenshot would be: 3000 pixels wide, made in the browser. */
async function picture(page: import("@playwright/test").Page): Promise<Buffer> {
  const text = await page.evaluate(() => {
    const c = document.createElement("canvas");
    [c.width, c.height] = [3000, 1500];
    const pen = c.getContext("2d") as CanvasRenderingContext2D;
    pen.fillStyle = "#3e6b4f";
    pen.fillRect(0, 0, 3000, 1500);
    return c.toDataURL("image/png").split(",")[1] as string;
  });
  return Buffer.from(text, "base64");
}

test("a photo, the clock, and a recipe that is laid out on other ground", async ({ page, app }) => {
  await outing(app);
  await put(app, `/api/deployments/${uid(90)}`, {
    outing_id: uid(1),
    name: "Knot",
    plan: { family: "dipole", variant: "flat", frequency_hz: 14.06e6 },
  });
  const built = {
    family: "dipole",
    variant: "flat",
    frequency_hz: 14.06e6,
    radiator: length(5.01),
    leg_b: length(5.01),
    feed_height: length(8),
    far_height: length(8),
  };
  await put(app, `/api/revisions/${uid(91)}`, { deployment_id: uid(90), reason: "as put up", built });
  await page.goto(`${app.url}/o/${uid(1)}/sweep`);
  await page.getByRole("button", { name: /^Knot/ }).click();
  await page.getByRole("group", { name: "Bands" }).getByRole("button", { name: /^20 m/ }).click();
  await page.getByRole("button", { name: "Sweep 20 m" }).click();
  await page.getByRole("button", { name: "Save to revision 1" }).click();
  await expect(page.getByText("The sweep is saved.")).toBeVisible();
  await page.goto(`${app.url}/o/${uid(1)}/raise`);
  // A photo of 3000 pixels is kept at 1600, as a clean JPEG.
  await page.getByLabel("Caption").fill("far end over the dune");
  await page.getByLabel("Add a photo").setInputFiles({ name: "dune.png", mimeType: "image/png", buffer: await picture(page) });
  const shown = page.getByRole("img", { name: "far end over the dune" });
  await expect(shown).toBeVisible();
  await expect(shown).toHaveAttribute("width", "1600");
  const file = await page.request.get(new URL((await shown.getAttribute("src")) as string, app.url).href);
  expect(file.headers()["content-type"]).toBe("image/jpeg");
  await page.getByLabel("Add a photo").setInputFiles({ name: "notes.png", mimeType: "image/png", buffer: Buffer.from("not a picture") });
  await expect(page.getByText("notes.png cannot be read as a picture. Use JPEG or PNG.")).toBeVisible();
  // The clock: its moments in order, the last one taken back.
  const clock = page.getByRole("region", { name: "Set-up clock" });
  for (const name of ["Start the clock", "Antenna is up", "Antenna is tuned"]) await clock.getByRole("button", { name }).click();
  await expect(clock.getByText(/up after \d+ min, tuned after \d+ min/)).toBeVisible();
  await clock.getByRole("button", { name: "take “tuned” back" }).click();
  await expect(clock.getByRole("button", { name: "Antenna is tuned" })).toBeVisible();
  // Kept as a recipe, and laid out at a rocky place with a shorter pole.
  await page.getByRole("button", { name: "Save as a recipe" }).click();
  await page.getByLabel("Name of the recipe").fill("Beach dipole");
  await page.getByRole("button", { name: "Save recipe" }).click();
  await expect(page.getByText("Beach dipole is a recipe now.")).toBeVisible();
  await put(app, `/api/outings/${uid(95)}`, {
    name: "Hollow Fell",
    date: "2026-05-30",
    place: "IN36",
    ground: "rock",
    scheme: "four-stations",
  });
  await page.goto(`${app.url}/o/${uid(95)}/cut`);
  const recipe = page.getByLabel("Use a recipe");
  await recipe.selectOption(await recipe.locator("option", { hasText: "Beach dipole" }).getAttribute("value"));
  await expect(page.getByText(/Laid out as Beach dipole, r1 of Knot at Gannet Spit/)).toBeVisible();
  await expect(page.getByLabel("First leg, m")).toHaveValue(/5\.01/);
  await expect(page.getByText(/Height and ground here/)).toBeVisible();
  await page.getByLabel(/^Feed height/).fill("4.5");
  await expect(page.getByText(/Height and ground here put the dip on 20 m \d+ kHz/)).toBeVisible();
  await expect(page.getByText(/a sweep should find the dip on 20 m near 1[34]\.\d+ MHz/)).toBeVisible();
  await page.goto(`${app.url}/`);
  await expect(page.getByRole("heading", { name: "Recipes" })).toBeVisible();
  await page.getByRole("listitem").filter({ hasText: "Lay it out in Cut" }).getByRole("button", { name: "Delete" }).click();
  await expect(page.getByRole("heading", { name: "Recipes" })).toHaveCount(0);
  await page.getByRole("button", { name: "Undo" }).click();
  await expect(page.getByRole("heading", { name: "Recipes" })).toBeVisible();
});

test("the drawing shows which figure cannot be, and parts come from the bag", async ({ page, app }) => {
  await outing(app);
  await put(app, `/api/parts/${uid(96)}`, {
    kind: "transformer",
    name: "64:1 on two rings",
    texts: { primary: "3", secondary: "24", core: "nizn850-36", stack: "2" },
    unit: "m",
  });
  await put(app, `/api/parts/${uid(97)}`, { kind: "choke", name: "Twelve turns", texts: { impedance: "7:2500 14:1500" }, unit: "m" });
  await page.goto(`${app.url}/o/${uid(1)}/raise`);
  await page.getByLabel(/^Far end height/).fill("26");
  await expect(
    page
      .getByText(
        "a wire of 20.50 m cannot reach from 1.00 m to 26.00 m up. One of the three is wrong: the wire is at least 25.00 m, " +
          "or its upper end at most 21.50 m up, or its lower at least 5.50 m",
      )
      .first(),
  ).toBeVisible();
  const impossible = page.locator("figure.layout").getByRole("listitem").filter({ hasText: "cannot reach" });
  await expect(impossible).toBeVisible();
  await expect(page.getByRole("button", { name: /^Save as revision 2/ })).toBeDisabled();
  await page.getByLabel(/^Far end height/).fill("6");
  await expect(impossible).toHaveCount(0);
  // A wire of 20.50 m from 1 to 6 m up ends 19.88 m away.
  await page.getByText("What to measure on site").click();
  await expect(page.getByText("wire's end 6.00 m up, 19.88 m from under the feed point")).toBeVisible();
  await unfold(page);
  await page.getByLabel("Which transformer").selectOption({ label: "64:1 on two rings (bag)" });
  await expect(page.getByLabel("to turns")).toHaveValue("24");
  await page.getByLabel("Choke", { exact: true }).selectOption("radio");
  await page.getByLabel("Which choke").selectOption({ label: "Twelve turns (bag)" });
  await page.getByLabel("Metal nearby", { exact: true }).selectOption({ label: "fence or rail" });
  await page.getByLabel("at, m").first().fill("3");
  await page.getByRole("button", { name: "Add more metal" }).click();
  await page.getByLabel("Metal nearby, 2").selectOption({ label: "table or bench" });
  // On paper it is one sheet of figures with room for what is found, not the form.
  const paper = await printed(page);
  expect(paper).toContain("Measured on site");
  expect(paper).toMatch(/Pole, guys and stakes/);
  expect(paper).not.toContain("More dimensions");
  await page.getByRole("button", { name: "Save as revision 2" }).click();
  await expect(page).toHaveURL(/sweep/);
  await expect(page.getByText("fence or rail at 3.00 m, table or bench")).toBeVisible();
  await expect(page.getByText(/1:64, 64:1 on two rings/)).toBeVisible();
  const d = await (await fetch(`${app.url}/api/deployments/${uid(2)}`)).json();
  expect(d.revisions[1].built.own.choke.name).toBe("Twelve turns");
});
