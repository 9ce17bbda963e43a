import { readFileSync } from "node:fs";
import { type App, expect, press, printedPages, put, tabTo, test } from "./app";

const get = async (app: App, path: string) => (await fetch(`${app.url}${path}`)).json();

/** The demo's first outing, where two of its antennas took turns on two bands, heard by the simulated network. */
async function turns(demo: App) {
  const list = await get(demo, "/api/outings");
  const { outing } = list.find((o: { outing: { name: string } }) => o.outing.name === "Gannet Spit");
  const detail = await get(demo, `/api/outings/${outing.id}`);
  const up = detail.tags.filter((t: { name: string }) => ["Stilt", "Curlew"].includes(t.name));
  const id = "ffffffff-0000-7000-8000-000000000051";
  await put(demo, `/api/runs/${id}`, {
    id,
    outing_id: outing.id,
    begin: `${outing.date}T13:00:00Z`,
    mode: "WSPR",
    power_w: 5,
    minutes: 160,
    guard_s: 0,
    bands: ["20m", "17m"],
    seed: 7,
    slots: [],
    version: 0,
    aerials: up.map((t: { id: string; name: string; letter: string }) => ({ letter: t.letter, deployment_id: t.id, name: t.name })),
  });
  await put(demo, `/api/runs/${id}/network`, undefined);
  return { outing, up };
}

test("two antennas are weighed on two bands, down to a report that is set aside, printed, and the lesson comes back", async ({
  page,
  demo,
}) => {
  const { outing, up } = await turns(demo);
  await page.goto(`${demo.url}/o/${outing.id}/weigh`);
  // Stilt and Curlew instead of the first two.
  await page.getByRole("button", { name: /Heron/ }).first().click();
  await page
    .getByRole("button", { name: /Curlew/ })
    .first()
    .click();
  const air = page.getByRole("region", { name: "On-air evidence" });
  await expect(air.getByText(/sent in turn, slot by slot, simulated/)).toBeVisible();
  await expect(air.getByRole("img", { name: /17 m: .* dB/ })).toBeVisible();
  await expect(page.getByRole("heading", { level: 1 })).toContainText(/dB/);
  // What both antennas foretell of the same paths stands beside it.
  const model = page.getByRole("region", { name: "Model and reports" });
  await expect(model.getByText(/On 20 m the model predicts .* on-air reports show/)).toBeVisible();

  // A filter, by keyboard, and back.
  const all = await air
    .getByText(/\d+ receivers, \d+ reports/)
    .first()
    .textContent();
  await page.getByLabel("Distance").selectOption("3000-");
  await expect
    .poll(() =>
      air
        .getByText(/\d+ receivers, \d+ reports|No receiver heard/)
        .first()
        .textContent(),
    )
    .not.toBe(all);
  await page.getByLabel("Distance").selectOption("");
  await expect
    .poll(() =>
      air
        .getByText(/\d+ receivers, \d+ reports/)
        .first()
        .textContent(),
    )
    .toBe(all);

  // One receiver opens to its reports; one is set aside with a reason, and the verdict says so.
  const receivers = air.getByRole("region", { name: /^Receivers/ }).first();
  await receivers.getByRole("button").first().press("Enter");
  await air
    .getByRole("button", { name: /Set aside the report of/ })
    .first()
    .press("Enter");
  await press(page, "Exclude it");
  await expect(air.getByText("Give a reason: the comparison uses all reports that are not excluded.")).toBeVisible();
  await page.getByLabel("Reason").fill("noise of a generator");
  await page.keyboard.press("Enter");
  await expect(page.getByRole("heading", { level: 1 })).toContainText("1 report set aside");
  await expect(air.getByText("set aside: noise of a generator")).toBeVisible();

  // The data as a table, and the answer on paper.
  const [file] = await Promise.all([page.waitForEvent("download"), air.getByRole("link", { name: "Slots and reports as CSV" }).click()]);
  const table = readFileSync(await file.path(), "utf8");
  expect(table.split("\n")[0]).toContain("what,at,band,antenna");
  expect(table).toContain("noise of a generator");
  const sheets = await printedPages(page);
  expect(sheets[0]).toContain("1 report set aside");
  expect(sheets[0]).toContain("Difference of the reported SNR, in decibels");
  expect(sheets[0]).not.toContain("How this is computed");
  expect(sheets[1]).toContain("How this is computed");
  expect(sheets[1]).not.toContain("What differs in the set-up");
  expect(sheets.slice(2).join(" ")).toContain("What differs in the set-up");
  expect(sheets.length).toBeLessThanOrEqual(5);
  expect(sheets.join(" ")).not.toContain("Slots and reports as CSV");

  // The lesson is kept, and seen at the next plan of such an antenna elsewhere.
  await page.getByLabel("The lesson of Stilt").fill("Raise the radials: the dunes eat the rest.");
  await press(page, "Save notes");
  await expect(page.getByText("Saved.").first()).toBeVisible();
  const detail = await get(demo, `/api/deployments/${up.find((t: { name: string }) => t.name === "Stilt").id}`);
  const other = (await get(demo, "/api/outings")).find((o: { outing: { name: string } }) => o.outing.name === "Hollow Fell").outing;
  const lessons = await get(demo, `/api/outings/${other.id}/lessons?family=${detail.deployment.plan.family}`);
  expect(lessons.map((l: { text: string }) => l.text)).toContain("Raise the radials: the dunes eat the rest.");
  await page.goto(`${demo.url}/o/${other.id}/cut`);
  await tabTo(page, /^Notes from past outings/);
  await page.keyboard.press("Enter");
  await expect(page.getByText(/this kind of antenna|this place|Nothing yet/).first()).toBeVisible();
});
