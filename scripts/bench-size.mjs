// Adds up the scripts that the first screen loads, gzipped.
import { gzipSync } from "node:zlib";

const base = process.argv[2];
const html = await (await fetch(base)).text();
const paths = [...html.matchAll(/(?:src|href)="(\/assets\/[^"]+\.js)"/g)].map((m) => m[1]);
let total = 0;
for (const p of new Set(paths)) total += gzipSync(Buffer.from(await (await fetch(base + p)).arrayBuffer())).length;
console.log(`scripts of the first screen: ${(total / 1024).toFixed(0)} kB gzipped, in ${new Set(paths).size} files`);
