// Prints an ADIF log of made-up contacts.
const n = Number(process.argv[3]);
const field = (name, v) => `<${name}:${v.length}>${v} `;
const two = (v) => String(v).padStart(2, "0");
let out = "<EOH>\n";
for (let i = 0; i < n; i++) {
  const time = two(Math.floor(i / 3600) % 24) + two(Math.floor(i / 60) % 60) + two(i % 60);
  const fields = { CALL: `Q${i}AB`, QSO_DATE: "20260516", TIME_ON: time, BAND: "40m", FREQ: "7.032", MODE: "CW", RST_SENT: "599" };
  const more = { RST_RCVD: "579", NOTES: "some words" };
  for (const [name, v] of Object.entries({ ...fields, ...more })) out += field(name, v);
  out += "<EOR>\n";
}
process.stdout.write(out);
