// Runs go test, shows packages and what failed, and keeps the counts for the closing summary. Groups of
// arguments parted by "--" are runs of their own.
import { spawn } from "node:child_process";
import { mkdirSync, writeFileSync } from "node:fs";
import { createInterface } from "node:readline";

let passed = 0;
let failed = 0;

async function run(args) {
  const go = spawn("go", ["test", "-json", ...args], { stdio: ["ignore", "pipe", "inherit"] });
  const output = new Map();
  for await (const line of createInterface({ input: go.stdout })) {
    let e;
    try {
      e = JSON.parse(line);
    } catch {
      console.log(line);
      continue;
    }
    const key = `${e.Package ?? e.ImportPath} ${e.Test ?? ""}`;
    if (e.Action === "output" || e.Action === "build-output") output.set(key, (output.get(key) ?? "") + e.Output);
    if (e.Action === "build-fail") process.stdout.write(output.get(key) ?? "");
    if (e.Action === "pass" && e.Test) passed++;
    if (e.Action === "fail") {
      if (e.Test) failed++;
      process.stdout.write(output.get(key) ?? "");
    }
    if (e.Action === "pass" && !e.Test) console.log(`ok   ${e.Package}  ${e.Elapsed}s`);
  }
  return new Promise((r) => (go.exitCode === null ? go.on("close", r) : r(go.exitCode)));
}

const groups = [[]];
for (const a of process.argv.slice(2)) a === "--" ? groups.push([]) : groups.at(-1).push(a);
let code = 0;
for (const g of groups) code = (await run(g)) || code;
mkdirSync("bin", { recursive: true });
writeFileSync("bin/gotest.json", JSON.stringify({ passed, failed }));
console.log(`Go: ${passed} passed, ${failed} failed`);
process.exit(code);
