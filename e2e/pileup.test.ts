import { type App, expect, outing, put, test, uid } from "./app";

/** A pile-up as it would be typed: two sites a side, serials, bands, antennas, midnight, a call heard wrong, and one worked twice. */
function script() {
  const lines: string[] = [];
  const calls: string[] = [];
  for (let i = 0; i < 58; i++) {
    const call = `Q${i % 10}${String.fromCharCode(65 + (i % 26))}${String.fromCharCode(65 + ((i * 7) % 26))}${i % 9 === 4 ? "/P" : ""}`;
    const minute = 23 * 60 + 20 + i; // past midnight UTC after forty
    const day = minute < 24 * 60 ? "2026-05-16" : "2026-05-17";
    const at = `${String(Math.floor(minute / 60) % 24).padStart(2, "0")}:${String(minute % 60).padStart(2, "0")}`;
    const more = [
      i === 0 ? "20m CW 5W" : i === 20 ? "40m" : i === 45 ? "14.285 SSB" : "",
      i % 6 === 2 ? `=MI-${String(100 + i)} =MI-${String(300 + i)}` : "",
      i % 8 === 3 ? "+MI-0001 +MI-0044" : "",
      i % 5 === 1 ? `!${i + 1} !${200 + i}` : "",
      i % 7 === 0 ? "^JO22ab" : "",
      i % 11 === 5 ? "&Ida" : "",
      i % 10 === 9 ? "; loud, fading" : "",
    ].filter(Boolean);
    lines.push(`${call} ${i < 45 ? "599 579" : "59 57"} @${day}T${at} ${more.join(" ")}`.trim());
    calls.push(call);
  }
  lines.push("Q5TAV 59 55 @2026-05-17T00:25", "Q0AA 59 57 @2026-05-17T00:26 20m CW 599 579".replace(" 59 57", ""));
  return { lines, calls: [...calls, "Q5TAV", "Q0AA"] };
}

const tags = (adi: string) =>
  adi
    .split(/<eor>/i)
    .slice(0, -1)
    .map((r) =>
      Object.fromEntries(
        [...r.replace(/^[\s\S]*<eoh>/i, "").matchAll(/<(\w+):(\d+)[^>]*>/g)].map((m) => [
          m[1]?.toUpperCase(),
          r.replace(/^[\s\S]*<eoh>/i, "").slice((m.index ?? 0) + m[0].length, (m.index ?? 0) + m[0].length + Number(m[2])),
        ]),
      ),
    );

const adif = async (app: App, id: string) => (await fetch(`${app.url}/api/outings/${id}/log.adi`)).text();

test("a scripted pile-up of 60 contacts is in the ADIF exactly, and comes back equal in every field, by keyboard", async ({
  page,
  app,
}) => {
  await outing(app);
  await page.goto(`${app.url}/o/${uid(1)}/work`);
  const line = page.getByLabel(/Call, reports/);
  const { lines, calls } = script();
  for (const [i, text] of lines.slice(0, 8).entries()) {
    await line.fill(text);
    await line.press("Enter");
    await expect(page.getByText(new RegExp(`^${calls[i]} logged at`))).toBeVisible();
  }
  // One that was heard wrong comes back with the arrow, and keeps its time.
  await line.press("ArrowUp");
  await expect(line).toHaveValue(lines[7] ?? "");
  await expect(page.getByText(/^Correcting /)).toBeVisible();
  await line.press("Escape");
  await expect(line).toHaveValue("");
  await line.press("ArrowUp");
  await line.fill((lines[7] ?? "").replace("579", "559"));
  await line.press("Enter");
  await expect(page.getByText(/ corrected at /)).toBeVisible();

  // The rest is pasted from a paper log: looked at first, with what is wrong in it.
  await line.evaluate(
    (e, text) => {
      const data = new DataTransfer();
      data.setData("text", text);
      e.dispatchEvent(new ClipboardEvent("paste", { clipboardData: data, bubbles: true, cancelable: true }));
    },
    [...lines.slice(8), "Q9BAD 59 57 @2026-05-17T00:30 41m"].join("\n"),
  );
  const pasted = page.getByRole("region", { name: "Pasted lines" });
  await expect(pasted.getByRole("heading", { name: "52 of 53 lines would be logged" })).toBeVisible();
  await expect(pasted.getByText(/"41m" is not a band/)).toBeVisible();
  await pasted.getByRole("button", { name: "Log 52 lines" }).click();
  await expect(pasted.getByText("1 line not logged; correct and paste them again.")).toBeVisible();
  await pasted.getByRole("button", { name: "Cancel" }).click();

  // Between contacts: nothing heard on a band is a result, and the noise floor, a key each.
  await page.keyboard.press("Alt+n");
  await expect(page.getByRole("cell", { name: "A nothing heard on 20 m" })).toBeVisible();
  await page.keyboard.press("Alt+f");
  await page.getByPlaceholder("S4, or -97 dBm").fill("very loud");
  await page.keyboard.press("Enter");
  await expect(page.getByText(/is no noise floor; write S4/)).toBeVisible();
  await page.getByPlaceholder("S4, or -97 dBm").fill("S3");
  await page.keyboard.press("Enter");
  await expect(page.getByRole("cell", { name: "A noise floor on 20 m: S3, about -109 dBm" })).toBeVisible();

  const out = await adif(app, uid(1));
  const records = tags(out);
  expect(records).toHaveLength(60);
  expect(records.map((r) => r.CALL)).toEqual(calls);
  expect(records.filter((r) => r.QSO_DATE === "20260516")).toHaveLength(40);
  const serial = records[1];
  expect([serial?.STX, serial?.SRX, serial?.BAND, serial?.MODE, serial?.RST_SENT, serial?.RST_RCVD]).toEqual([
    "2",
    "201",
    "20m",
    "CW",
    "599",
    "579",
  ]);
  expect(records[7]?.RST_RCVD).toBe("559");
  expect(Object.values(records[2] ?? {}).join(" ")).toContain("MI-102,MI-302");
  expect(Object.values(records[3] ?? {}).join(" ")).toContain("MI-0001,MI-0044");
  expect(records[5]?.NAME).toBe("Ida");

  // The same file in an outing that is empty, and out of it again.
  await put(app, `/api/outings/${uid(9)}`, { name: "Gannet Spit", date: "2026-05-16", place: "IN36", ground: "sea", scheme: "ten-a-day" });
  await put(app, `/api/imports/${uid(90)}`, { name: "log.adi", content: Buffer.from(out).toString("base64"), outing_id: uid(9) });
  expect(tags(await adif(app, uid(9)))).toEqual(records);
});

test.describe("in the hand", () => {
  test.use({ viewport: { width: 390, height: 844 }, hasTouch: true, isMobile: true });

  test("the link is cut in the middle and the server's power fails during writes: everything is there once, by thumb", async ({
    page,
    app,
  }) => {
    await outing(app);
    await page.goto(`${app.url}/o/${uid(1)}/work`);
    const line = page.getByLabel(/Call, reports/);
    const calls = Array.from({ length: 18 }, (_, i) => `Q${i % 10}${String.fromCharCode(65 + i)}W`);
    await page.getByRole("button", { name: "CW" }).tap();
    await page.getByRole("button", { name: "40 m" }).tap();
    for (const [i, call] of calls.entries()) {
      if (i === 4) await page.context().setOffline(true);
      if (i === 9) await page.context().setOffline(false);
      await line.fill(i === 0 ? `${call} CW 40m` : call);
      await page.getByRole("button", { name: "599 579" }).tap();
      await page.getByRole("button", { name: "Log it" }).tap();
      // Nobody waits for the answer here: the power fails while two of them are on their way.
      if (i === 13) {
        await app.crash();
        await app.start();
      }
      await expect(line).toHaveValue("");
      if (i === 6) {
        await page.getByRole("button", { name: "nothing heard" }).tap();
        await expect(page.getByText(/not synced yet/)).toBeVisible();
      }
    }
    await expect(page.getByText(/not synced yet/)).toBeHidden();
    const read = async () => (await fetch(`${app.url}/api/outings/${uid(1)}/log?most=100`)).json();
    await expect.poll(async () => (await read()).total).toBe(calls.length);
    const log = await read();
    expect(log.rows.map((r: { contact: { call: string } }) => r.contact.call).sort()).toEqual([...calls].sort());
    expect(log.notes).toHaveLength(1);
  });
});
