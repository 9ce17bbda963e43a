import { expect, press, printed, tabTo, test } from "./app";

test("what antennas did over all outings, and kinds of them weighed as one", async ({ page, demo }) => {
  await page.goto(demo.url);
  await tabTo(page, /^Antenna records$/);
  await page.keyboard.press("Enter");
  await expect(page.getByRole("heading", { level: 1 })).toContainText(/On \d+ m.*Stilt is very likely best/);

  // By contacts nothing is settled yet, and a page says so; a kind of site has a rank of its own.
  await press(page, "20 m");
  const contacts = page.getByRole("region", { name: "Contacts" });
  await expect(contacts.getByText(/not settled; .* contacts per hour on a typical outing, \d+ to \d+/)).toBeVisible();
  await expect(contacts.getByRole("img", { name: /Curlew, Plover: .*Dunlin/ })).toBeVisible();
  await page.getByLabel("Kind of site").selectOption("Bare rock");
  await expect(contacts.getByText(/On 20 m, bare rock: /)).toBeVisible();
  await expect(page.getByRole("region", { name: "Beacon runs" })).toHaveCount(0);

  // Plover was laid out again from Curlew's recipe: one antenna with two outings.
  await page.getByLabel("History of").selectOption("Curlew, Plover");
  const history = page.getByRole("region", { name: "History" });
  await expect(history.getByText("2 set-ups at 2 outings")).toBeVisible();
  await expect(history.getByRole("listitem")).toHaveCount(2);
  await expect(history.getByText(/Beside Stilt: Stilt is .* dB stronger/)).toBeVisible();
  await expect(history.getByText(/Thin coax hides the mismatch/)).toBeVisible();
  await history.getByRole("link", { name: "Gannet Spit" }).press("Enter");

  // Two kinds of antenna, over all their outings, as they are told on the air.
  await expect(page).toHaveURL(/\/weigh$/);
  for (const name of [/^Heron A/, /^Stilt B/]) await page.getByRole("button", { name }).press("Enter");
  for (const name of [/^Half-wave dipole/, /^Quarter-wave vertical/]) await page.getByRole("button", { name }).press("Enter");
  await expect(page.getByRole("heading", { level: 1 })).toContainText(/Quarter-wave vertical is .*\sdB stronger/);
  await expect(page.getByText(/Half-wave dipole combines 3 set-ups, of 3 outings/).first()).toBeVisible();
  const model = page.getByRole("region", { name: "Model and reports" });
  await expect(model.getByRole("img", { name: /All round on 20 m: \d+ degrees/ })).toBeVisible();

  // One that is in both is refused where it stands, and nothing is lost.
  await page.getByRole("button", { name: /^Curlew, Plover/ }).press("Enter");
  await page.getByRole("button", { name: "Half-wave dipole against it" }).nth(1).press("Enter");
  await expect(page.getByRole("heading", { level: 1 })).toContainText("a set-up belongs to both of these");
  await page.getByRole("button", { name: /^Curlew, Plover/ }).press("Enter");
  await expect(page.getByRole("heading", { level: 1 })).toContainText(/dB stronger/);
});

test("on paper it says what setting up took, and shows how it stood", async ({ page, demo }) => {
  const list = await (await fetch(`${demo.url}/api/outings`)).json();
  const id = list.find((o: { outing: { name: string } }) => o.outing.name === "Gannet Spit").outing.id;
  await page.goto(`${demo.url}/o/${id}/weigh`);
  await expect(page.getByText("75 min by the clock")).toBeVisible();
  await expect(page.getByText(/are radiated/).first()).toBeVisible();
  const photo = page.getByRole("img", { name: "far end clear of the marram", includeHidden: true });
  await expect(photo).toHaveCount(1);
  await expect.poll(() => photo.evaluate((e) => (e as HTMLImageElement).naturalWidth)).toBeGreaterThan(100);
  const paper = await printed(page);
  for (const said of ["75 min in total by the clock", "far end clear of the marram", "Cost", "footprint", "are radiated"])
    expect(paper).toContain(said);
});
