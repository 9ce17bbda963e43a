// Prints an ADIF log of made-up contacts.
const n = Number(process.argv[3]);
const field = (name, v) => `<${name}:${v.length}>${v} `;
const two = (v) => String(v).padStart(2, "0");
let out = "<EOH>\n";
for (let i = 0; i < n; i++) {
  const time = two(Math.floor(i / 3600) % 24) + two(Math.floor(i / 60) % 60) + two(i % 60);
  out += `${field("CALL", `Q${i}AB`) + field("QSO_DATE", "20260516") + field("TIME_ON", time) + field("BAND", "40m") + field("FREQ", "7.032") + field("MODE", "CW") + field("RST_SENT", "599") + field("RST_RCVD", "579") + field("NOTES", "some words")}<EOR>\n`;
}
process.stdout.write(out);
