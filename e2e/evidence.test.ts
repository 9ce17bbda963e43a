import { type App, expect, outing, press, put, tabTo, test, uid } from "./app";

const length = (typed: string) => ({ typed, unit: "m" });

/** Two antennas that are up at one place: Heron, and Stilt beside it. */
async function twoUp(app: App) {
  await outing(app);
  const shape = { family: "vertical", variant: "raised-radials", frequency_hz: 7.1e6 };
  await put(app, `/api/deployments/${uid(20)}`, { outing_id: uid(1), name: "Stilt", plan: shape });
  const radials = { count: 4, length: length("10 m"), height: length("0.5 m") };
  const built = { ...shape, power_w: 5, radiator: length("10.2 m"), feed_height: length("0.5 m"), radials };
  await put(app, `/api/revisions/${uid(30)}`, { deployment_id: uid(20), reason: "as cut", built });
}

test("antennas in turn by the clock, heard by the simulated network, a slot mended, the map looked at, by keyboard", async ({
  page,
  app,
}) => {
  await twoUp(app);
  await page.goto(`${app.url}/o/${uid(1)}/work`);
  const run = page.getByRole("region", { name: "Beacon run" });
  await tabTo(page, /^Duration, min/);
  await page.keyboard.press("ControlOrMeta+a");
  await page.keyboard.type("an hour");
  await press(page, "Start beacon run");
  await expect(run.getByText('"an hour" is not a number')).toBeVisible();
  await tabTo(page, /^Duration, min/);
  await page.keyboard.press("ControlOrMeta+a");
  await page.keyboard.type("2");
  await press(page, "Start beacon run");
  await expect(run.getByText(/each antenna on each band once takes 4 minutes/).first()).toBeVisible();
  await tabTo(page, /^Duration, min/);
  await page.keyboard.press("ControlOrMeta+a");
  await page.keyboard.type("40");
  await run.getByRole("checkbox", { name: "40 m" }).press("Space");
  await press(page, "Start beacon run");
  await expect(run.getByText(/in turn on 20 m, 40 m, 20 slots of WSPR/)).toBeVisible();
  await expect(run.getByText(/(Switch to|Sending with) [AB] on/)).toBeVisible();
  await expect(run.getByRole("timer")).toHaveText(/^\d:\d\d$/);
  await press(page, "Ask the simulated network");
  await expect(run.getByText("No slot is over yet.")).toBeVisible();

  // A run that is over: the network is asked, the difference stands there with its interval, and a slot is mended.
  const [state] = await (await fetch(`${app.url}/api/outings/${uid(1)}/runs`)).json();
  const id = "ffffffff-0000-7000-8000-000000000041";
  const begin = new Date(Date.now() - 3 * 3600_000).toISOString();
  await put(app, `/api/runs/${id}`, { ...state.run, id, begin, minutes: 96, slots: [], version: 0 });
  await page.reload();
  await expect(run.getByText(/Over since/)).toBeVisible();
  await press(page, "Ask the simulated network");
  await expect(run.getByText(/\d+ simulated reports came in/)).toBeVisible();
  await expect(run.getByText(/by \d+ receivers/).first()).toBeVisible();
  await run.getByText("Correct slots (48)").press("Enter");
  const slot = run.getByRole("combobox", { name: /^Sent at/ }).first();
  await slot.selectOption("-");
  await expect(run.getByText("Corrected.")).toBeVisible();
  await expect(run.getByText(/(23 slots of A, 24|24 slots of A, 23) of B/).first()).toBeVisible();

  // Listening is another run: it asks for no power, and what one heard is not taken for who heard one.
  await press(page, "Another run");
  await run.getByRole("radio", { name: "reception: listen" }).press("Space");
  await expect(run.getByLabel("Power, W")).toHaveCount(0);
  await press(page, "Start beacon run");
  type Laid = { run: { listen?: boolean } }[];
  const runs = async (): Promise<Laid> => (await fetch(`${app.url}/api/outings/${uid(1)}/runs`)).json();
  await expect.poll(async () => (await runs()).filter((r) => r.run.listen).length).toBe(1);
  const listened = (await runs()).find((r) => r.run.listen);
  const later = "ffffffff-0000-7000-8000-000000000042";
  const since = new Date(Date.now() - 5.5 * 3600_000).toISOString();
  await put(app, `/api/runs/${later}`, { ...listened?.run, id: later, begin: since, minutes: 100, slots: [], version: 0 });
  await page.reload();
  await expect(run.getByText(/A, Heron and B, Stilt listen in turn on 20 m/)).toBeVisible();
  await press(page, "Ask the simulated network");
  await expect(run.getByText(/heard with A only, \d+ with B only/).first()).toBeVisible();

  // The map has both antennas, and a band at a time.
  const heard = page.getByRole("region", { name: "Who heard you" });
  await expect(heard.getByText(/receivers heard you.*Some of it is simulated/)).toBeVisible();
  await expect(heard.getByText("A, Heron")).toBeVisible();
  await expect(heard.getByText("B, Stilt")).toBeVisible();
  const all = await heard.locator(".map-mark").count();
  await heard.getByLabel("Band heard on").selectOption("40m");
  await expect.poll(() => heard.locator(".map-mark").count()).toBeLessThan(all);

  // What the radio says goes into the line, and so does who is out.
  await press(page, "Read the radio");
  await page.getByRole("region", { name: "Radio and board" }).getByRole("button", { name: /MHz/ }).press("Enter");
  await expect(page.getByLabel(/Call, reports/)).toHaveValue(/^[\d.]+ (CW|SSB) \d+W$/);
  await page.getByLabel(/Call, reports/).fill("");
  await press(page, "Spots");
  await press(page, "Spot yourself");
  await expect(page.getByText(/^Announced on [\d.]+ MHz/)).toBeVisible();
  await expect(page.getByRole("region", { name: "Spots, simulated" }).getByText("yourself")).toBeVisible();

  // A pair by one patient station, on the band that is chosen; then Weigh opens with both, each by its strength.
  await page.getByRole("group", { name: "Band" }).getByRole("button", { name: "40 m" }).press("Enter");
  await page.keyboard.press("Alt+p");
  await page.getByPlaceholder("Q2TAV 579 559").fill("Q2TAV 579 559");
  await page.keyboard.press("Enter");
  await expect(page.getByRole("cell", { name: "A A/B report from one station on 40 m: Q2TAV 579 559" })).toBeVisible();
  await page.goto(`${app.url}/o/${uid(1)}/weigh`);
  const evidence = page.getByRole("region", { name: "On-air evidence" });
  await expect(evidence.getByText("sent in turn, slot by slot")).toBeVisible();
  await expect(evidence.getByText(/1 pairs by patient stations/)).toBeVisible();
  await expect(evidence.getByText(/\+12.0 dB for .* by 1 station, which proves nothing/)).toBeVisible();
});

test("reports come in by a file: looked at first, then on the map, down to the single one, and taken out again", async ({ page, app }) => {
  await twoUp(app);
  await page.goto(`${app.url}/o/${uid(1)}/work`);
  const rows = ["timestamp,sender,receiver,locator,frequency,mode,snr,power"];
  for (let i = 0; i < 12; i++) {
    const at = new Date(Date.UTC(2026, 4, 16, 10, 2 * i)).toISOString();
    rows.push(`${at},Q1REED,Q5ABC,JO22ab,7.0386,WSPR,${-14 - (i % 3)},37`, `${at},Q1REED,Q6DEF,FN31,7.0386,WSPR,-2${i % 4},37`);
  }
  rows.push("2026-05-16 10:02:40,<Q1REED/P>,Q5ABC,JO22ab,7.0386,WSPR,-15,37", "2026-05-16 10:00:00,Q9OTH,Q5ABC,JO22ab,7.0386,WSPR,-3,37");
  await page
    .getByLabel("Import a log, or reports")
    .setInputFiles({ name: "heard.csv", mimeType: "text/csv", buffer: Buffer.from(rows.join("\n")) });
  const preview = page.getByRole("region", { name: "Preview of the reports" });
  await expect(preview.getByRole("heading", { name: "24 of 26 reports would be added" })).toBeVisible();
  await expect(preview.getByText(/1 reports are of other stations \(Q9OTH\)/)).toBeVisible();
  await expect(preview.getByText(/powers of 37 to 37 are dBm/)).toBeVisible();
  await preview.getByRole("button", { name: "Add 24 reports" }).click();
  const heard = page.getByRole("region", { name: "Who heard you" });
  await expect(heard.getByText(/^2 receivers heard you, in 24 reports; the farthest is Q6DEF at \d+ km/)).toBeVisible();
  await expect(heard.getByRole("group", { name: /^Map around your station, out to \d+ km/ })).toBeVisible();
  await heard.getByRole("button", { name: "Q5ABC" }).click();
  await expect(heard.getByRole("region", { name: "Reports of Q5ABC" }).getByRole("row")).toHaveCount(12);
  await page.getByRole("button", { name: "Undo" }).click();
  await expect(heard.getByText("No reception reports yet.")).toBeVisible();
});

test("a rule is changed and one added by keyboard, operators take turns, and each needs the minimum", async ({ page, app }) => {
  await outing(app);
  await page.goto(`${app.url}/settings`);
  await press(page, "Change 10 contacts in a UTC day");
  await tabTo(page, /^Minimum/);
  await page.keyboard.press("ControlOrMeta+a");
  await page.keyboard.type("2");
  await tabTo(page, /^each operator at your station/);
  await page.keyboard.press("Space");
  await press(page, "Save rule");
  await expect(page.getByText(/at least 2;.*each operator needs it/)).toBeVisible();
  await press(page, "Add a rule");
  await tabTo(page, /^Minimum/);
  await page.keyboard.press("ControlOrMeta+a");
  await page.keyboard.type("seven");
  await press(page, "Save rule");
  await expect(page.getByText("seven is not a number of contacts")).toBeVisible();
  await page.getByLabel("Minimum", { exact: true }).focus();
  await page.keyboard.press("ControlOrMeta+a");
  await page.keyboard.type("7");
  await press(page, "Save rule");
  await expect(page.getByText(/a rule needs a name/)).toBeVisible();
  await page.getByLabel("Rule", { exact: true }).fill("7 stations from any site");
  await press(page, "Save rule");
  await expect(page.getByText("7 stations from any site", { exact: true })).toBeVisible();

  await page.goto(`${app.url}/o/${uid(1)}/work`);
  for (const line of ["Q2TAX 599 579 40m CW", "Q3TAX 599 559", "Q4TAX 599 559 %Q5AB"]) {
    await page.getByLabel(/Call, reports/).fill(line);
    await page.keyboard.press("Enter");
    await expect(
      page
        .getByRole("button", { name: new RegExp(`${line.slice(0, 5)}`) })
        .or(page.getByRole("cell", { name: line.slice(0, 5) }))
        .first(),
    ).toBeVisible();
  }
  await expect(page.getByText("1 of 2 (2 for yourself, 1 for Q5AB); 1 to go.")).toBeVisible();
  await page.getByLabel("Export").selectOption({ label: "what counts: 7 stations from any site" });
  const href = await page.getByRole("link", { name: "Export as ADIF" }).getAttribute("href");
  const adif = await (await fetch(`${app.url}${href}`)).text();
  expect(adif.match(/<CALL:/g)).toHaveLength(3);
  expect(adif).toContain("<OPERATOR:4>Q5AB");
});
