import { expect, outing, pick, put, test, uid } from "./app";

const length = (m: number) => ({ typed: `${m} m`, unit: "m" });

test("a cable that flatters: fine at the radio, and the screen says why it is not", async ({ page, app }) => {
  await outing(app);
  await put(app, `/api/deployments/${uid(80)}`, {
    outing_id: uid(1),
    name: "Dunlin",
    plan: { family: "dipole", variant: "flat", frequency_hz: 28.2e6 },
  });
  // Cut long, behind 25 m of thin cable.
  const built = {
    family: "dipole",
    variant: "flat",
    frequency_hz: 28.2e6,
    radiator: length(2.6),
    leg_b: length(2.6),
    feed_height: length(5),
    far_height: length(5),
    coax: { type: "RG-174", length: length(25) },
    power_w: 10,
  };
  await put(app, `/api/revisions/${uid(81)}`, { deployment_id: uid(80), reason: "as cut", built });
  await page.goto(`${app.url}/o/${uid(1)}/sweep`);
  await page.getByRole("button", { name: /^Dunlin/ }).click();
  await page.getByRole("group", { name: "Bands" }).getByRole("button", { name: /^10 m/ }).click();
  await pick(page.getByRole("group", { name: "An analyser" }), /^at the radio/);
  await page.getByRole("button", { name: "Sweep 10 m" }).click();
  await page.getByRole("button", { name: "Save to revision 1" }).click();
  // The radio's own figures are good all over the segment; what the antenna has is said with its watts.
  await expect(page.getByText("segment under 2").locator("..").getByText("100 %")).toBeVisible();
  const why = page.getByText(/^It looks fine at the radio and is not/);
  await expect(why).toContainText(/the radio sees SWR 1\.\d, the antenna has ([2-9]|1\d)\.\d\. 25\.00 m of RG-174 loses/);
  await expect(why).toContainText(/Of 10 W, [\d.]+ W reach the antenna/);
  await expect(page.getByRole("heading", { level: 1 })).not.toHaveText("No change needed.");
  await expect(page.getByRole("heading", { level: 1 })).toContainText(/Fold back/);
  // Both ends are drawn, and every face of the sweep.
  await page.getByRole("button", { name: "+ at the feed point" }).click();
  await expect(page.locator(".keyline").getByText("at the feed point")).toBeVisible();
  for (const [face, figure] of [
    ["R and X", /^R and X of Dunlin/],
    ["return loss", /^Return loss of Dunlin/],
    ["reflection", /^Reflection of Dunlin at the radio/],
  ] as const) {
    await page.getByRole("button", { name: face, exact: true }).click();
    await expect(page.getByRole("img", { name: figure })).toBeVisible();
  }
});

test("a windy minute is one band, and all of 1 to 60 MHz is seen at a glance", async ({ page, app }) => {
  await outing(app);
  await put(app, `/api/deployments/${uid(82)}`, {
    outing_id: uid(1),
    name: "Plover",
    plan: { family: "dipole", variant: "flat", frequency_hz: 14.1e6 },
  });
  const built = {
    family: "dipole",
    variant: "flat",
    frequency_hz: 14.1e6,
    radiator: length(5.05),
    leg_b: length(5.05),
    feed_height: length(6),
    far_height: length(6),
    wind: "strong",
  };
  await put(app, `/api/revisions/${uid(83)}`, { deployment_id: uid(82), reason: "as cut", built });
  await page.goto(`${app.url}/o/${uid(1)}/sweep`);
  await page.getByRole("button", { name: /^Plover/ }).click();
  await page.getByRole("group", { name: "Bands" }).getByRole("button", { name: /^20 m/ }).click();
  await page.getByRole("button", { name: "Repeat 5 times (wind)" }).click();
  await expect(page.getByText("They are saved to revision 1.")).toBeVisible();
  await expect(page.getByText(/^5 sweeps: the dip moved over \d+ kHz/)).toBeVisible();
  await expect(page.locator(".keyline").getByText("5 sweeps of it")).toBeVisible();
  await expect(page.getByText(/^Computed: .*(Measured \d+ kHz|As computed)/)).toBeVisible();
  await page.getByRole("button", { name: "All of 1 to 60 MHz" }).click();
  await page.getByRole("button", { name: "Save to revision 1" }).click();
  await expect(page.getByRole("img", { name: /^SWR from 1\.0 to 60 MHz: dips at 1[34]\.\d\d/ })).toBeVisible();
  // The overview does not take the place of the sweeps of the band.
  await expect(page.getByText(/^5 sweeps: the dip moved over/)).toBeVisible();
});

test("an analyser on the network that is not there is told, and nothing is lost", async ({ page, app }) => {
  await outing(app);
  await page.goto(`${app.url}/settings`);
  await page.getByLabel("Analyser on the network").fill("in the car");
  await page.getByRole("button", { name: "Save settings" }).click();
  await expect(page.getByText(/"in the car" is not an address; write host and port/)).toBeVisible();
  await page.getByLabel("Analyser on the network").fill("127.0.0.1:9");
  await page.getByRole("button", { name: "Save settings" }).click();
  await expect(page.getByText("Saved.")).toBeVisible();
  await page.goto(`${app.url}/o/${uid(1)}/sweep`);
  await page.getByLabel("Which analyser").selectOption("network");
  await page.getByRole("button", { name: "Type readings" }).click();
  await page.getByLabel("Frequency in MHz and SWR, one reading a line").fill("7.0 1.9");
  await page.getByRole("button", { name: "Sweep 40 m" }).click();
  await expect(page.getByText(/no analyser answers at 127\.0\.0\.1:9; is it on, and on this network/)).toBeVisible();
  await expect(page.getByLabel("Frequency in MHz and SWR, one reading a line")).toHaveValue("7.0 1.9");
});

test("a wire of the bag learns its velocity factor from its sweeps", async ({ page, demo }) => {
  await page.goto(`${demo.url}/bag`);
  await page.getByRole("button", { name: /Thin grey, PE/ }).click();
  await page.getByRole("button", { name: "What do its sweeps show?" }).click();
  const said = page.getByText(/0\.\d{3} by the sweeps of \d antennas, between 0\.\d{3} and (0|1)\.\d{3}; 0\.\d{3} by its jacket/);
  await expect(said).toBeVisible();
  const take = page.getByRole("button", { name: /^Take 0\.\d{3} for this wire/ });
  await take.click();
  await expect(take).toHaveCount(0);
  await page.getByRole("button", { name: /Thin grey, PE/ }).click();
  await expect(page.getByLabel("Measured velocity factor")).toHaveValue(/^0\.9\d*/);
});

test("a telescopic whip is slid to resonance by the advisor", async ({ page, app }) => {
  await outing(app);
  await put(app, `/api/deployments/${uid(84)}`, {
    outing_id: uid(1),
    name: "Avocet",
    plan: { family: "whip", variant: "raised-radials", frequency_hz: 14.06e6, texts: { for: "14.06" }, unit: "m" },
  });
  const built = {
    family: "whip",
    variant: "raised-radials",
    frequency_hz: 14.06e6,
    unit: "m",
    texts: { radiator: "5.5", feed_height: "1.5", radials_count: "4", radials_length: "5.1", radials_height: "1" },
  };
  await put(app, `/api/revisions/${uid(85)}`, { deployment_id: uid(84), reason: "as put up", built });
  await page.goto(`${app.url}/o/${uid(1)}/sweep`);
  await page.getByRole("button", { name: /^Avocet/ }).click();
  for (let r = 1; r <= 3; r++) {
    await page.getByRole("button", { name: "Sweep 20 m" }).click();
    await page.getByRole("button", { name: `Save to revision ${r}` }).click();
    await expect(page.getByText(`measured, r${r}`)).toBeVisible();
    const good = page.getByRole("heading", { level: 1, name: /^No change needed/ });
    const slide = page.getByRole("heading", { level: 1, name: /^(Slide|Pull) the whip (in|out) by .*, to \d\.\d{3} m, then sweep again/ });
    await expect(good.or(slide).first()).toBeVisible();
    if (await good.isVisible()) {
      expect(r).toBeGreaterThan(1);
      return;
    }
    await page.getByRole("button", { name: `Changed: save as revision ${r + 1}` }).click();
    await expect(page.getByText(`Saved as revision ${r + 1}`)).toBeVisible();
  }
  throw new Error("three sweeps did not bring the whip home");
});
