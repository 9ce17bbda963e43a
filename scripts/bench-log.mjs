// Logs 1000 contacts one after the other and prints how long each took until it was acknowledged.
const base = process.argv[2];
const uid = (n) => `00000000-0000-7000-8000-${String(n).padStart(12, "0")}`;
const put = (path, body) =>
  fetch(base + path, { method: "PUT", headers: { "Content-Type": "application/json" }, body: JSON.stringify(body) });
await put(`/api/outings/${uid(1)}`, { name: "bench", date: "2026-05-16" });
const took = [];
for (let i = 0; i < 1000; i++) {
  const begun = performance.now();
  const r = await put(`/api/contacts/${uid(1000 + i)}/line`, { outing_id: uid(1), line: `Q${i}AB 599 579 40m CW` });
  if (!r.ok) throw new Error(await r.text());
  await r.json();
  took.push(performance.now() - begun);
}
took.sort((a, b) => a - b);
console.log(`contact logged to acknowledged, 1000 times: p50 ${took[499].toFixed(1)} ms, p99 ${took[989].toFixed(1)} ms`);
